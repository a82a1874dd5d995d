<!-- The lookup of a grade: what was found in its file, or where to get one. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Asset, Layout, ColourReading, LookupRef } from '../../api/types'

const props = defineProps<{ lookup: LookupRef | null; asset: Asset | null; reading: ColourReading | null; busy: string | null }>()
const emit = defineEmits<{ file: [file: File]; layout: [layout: Layout]; remove: [] }>()

const chooser = ref<HTMLInputElement | null>(null)
const size = ref(33)
const form = ref<'strip' | 'grid' | 'hald' | 'cube'>('strip')
const bits = ref(16)
const SIZES = [16, 25, 32, 33, 36, 49, 64]
const WORDS = { strip: 'a row of slices', grid: 'a grid of slices', hald: 'Hald', 'cube file': '.cube', 'clf file': 'CLF', 'cdl file': 'ASC CDL' } as const

const facts = computed(() => props.asset?.lookup ?? null)
const found = computed(() => props.lookup?.layout ?? facts.value?.found ?? null)
const others = computed(() => facts.value?.choices.filter((choice) => choice !== found.value) ?? [])
const square = computed(() => Number.isInteger(Math.sqrt(size.value)))
const address = computed(() => `/api/neutral?size=${size.value}&layout=${form.value}&bits=${bits.value}`)

/** Colours of the lookup on the hexagon that the cube shows along its grey axis, dark ones below. */
const dots = computed(() =>
  (props.reading?.cloud ?? []).map((colour, n) => {
    const [r, g, b] = [n % 6, Math.floor(n / 6) % 6, Math.floor(n / 36)] as [number, number, number]
    return { colour, x: (r - b) * 9.2 + 52, y: 104 - ((r + b) * 5.3 + g * 8.6) }
  }),
)

function chosen(event: Event): void {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) emit('file', file)
  field.value = ''
}
</script>

<template>
  <div class="lookup">
    <input ref="chooser" type="file" hidden accept=".cube,.clf,.cdl,.cc,.ccc,.png,.jpg,.jpeg,.webp,.tif,.tiff,.bmp,.gif" @change="chosen" />
    <template v-if="lookup && asset && facts">
      <svg class="cloud" viewBox="0 0 104 112" role="img" aria-label="The lookup's colours">
        <circle v-for="(dot, n) in dots" :key="n" :cx="dot.x" :cy="dot.y" r="2.6" :fill="dot.colour" />
      </svg>
      <div class="facts">
        <b class="file">{{ asset.name }}</b>
        <span>
          <span class="figure">{{ facts.size }}</span> {{ facts.kind === 'cube' ? 'steps' : 'entries a curve'
          }}{{ found ? `, ${WORDS[found]}` : '' }}{{ facts.bits ? `, ${facts.bits} bits` : '' }}
        </span>
        <span v-if="facts.damaged" class="damaged" role="alert">
          Damaged<template v-if="facts.stored_as"> by {{ facts.stored_as }}</template
          ><template v-if="facts.noise !== null">, noise <span class="figure">{{ facts.noise.toFixed(4) }}</span></template
          >. Colours will shift and band; export it again as PNG.
        </span>
        <span v-else>
          <span class="ok">Lossless</span>
          <template v-if="facts.noise !== null"> noise <span class="figure">{{ facts.noise.toFixed(4) }}</span></template>
        </span>
        <span v-if="!facts.monotonic" class="second">Folds along grey: some darker greys come out lighter</span>
        <span v-if="others.length" class="second">
          {{ facts.sure ? '' : 'Fits two layouts. ' }}
          <button v-for="other in others" :key="other" class="word" @click="emit('layout', other)">
            Read it as {{ WORDS[other] }}
          </button>
        </span>
        <span class="acts">
          <button class="word" @click="chooser?.click()">Replace</button>
          <button class="word" @click="emit('remove')">Remove</button>
          <a class="word" :href="`/api/assets/${lookup.asset}/file`" :download="asset.name">Download</a>
        </span>
      </div>
    </template>
    <div v-else-if="!lookup" class="empty">
      <p class="first">
        Drop a graded lookup here, or
        <button class="act" @click="chooser?.click()">Choose a file</button>
      </p>
      <p class="second">A .cube, CLF or CDL file, or a lookup picture: a row of slices, a grid of slices, or Hald. Best as PNG.</p>
      <h3>None graded yet? Take a neutral one, grade it in any picture editor, drop it here</h3>
      <p class="neutral">
        <select v-model.number="size" class="field figure" aria-label="Steps">
          <option v-for="n in SIZES" :key="n" :value="n">{{ n }} steps</option>
        </select>
        <select v-model="form" class="field" aria-label="Layout">
          <option value="strip">row of slices</option>
          <option value="grid" :disabled="!square">grid of slices</option>
          <option value="hald" :disabled="!square">Hald</option>
          <option value="cube">.cube file</option>
        </select>
        <select v-if="form !== 'cube'" v-model.number="bits" class="field" aria-label="Bits">
          <option :value="16">16 bits</option>
          <option :value="8">8 bits</option>
        </select>
        <a v-if="square || form === 'strip' || form === 'cube'" class="word" :href="address" download>Download neutral</a>
        <span v-else class="second">16, 25, 36, 49 or 64 steps</span>
      </p>
    </div>
    <p v-else-if="!asset" class="second" role="status">Reading the lookup …</p>
    <p v-if="busy" class="second busy" role="status">Reading {{ busy }} …</p>
  </div>
</template>

<style scoped>
.lookup {
  display: flex;
  gap: 20px;
  align-items: center;
  /* What comes of a file later takes no more room than this: nothing moves under a hand that is on a control below. */
  min-height: 124px;
}
.facts .damaged,
.facts .second {
  font-size: 12px;
  line-height: 1.3;
}
.cloud {
  flex: none;
  width: 104px;
  height: 112px;
}
.facts {
  display: flex;
  flex-direction: column;
  gap: 1px;
  min-width: 0;
}
.file {
  font-weight: 650;
  overflow-wrap: anywhere;
}
.second {
  color: var(--second);
}
.ok {
  color: var(--ok);
  font-weight: 650;
}
.damaged {
  color: var(--glaze);
  font-weight: 650;
  max-width: 300px;
}
.acts {
  display: flex;
  gap: 14px;
  margin-top: 2px;
}
.empty {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.first {
  font-size: 17px;
  font-weight: 650;
}
.first .act {
  margin-left: 4px;
  font-size: 13px;
  font-weight: 500;
}
.empty h3 {
  margin-top: 14px;
}
.neutral {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
</style>
