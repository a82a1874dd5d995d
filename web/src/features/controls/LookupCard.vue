<!-- The lookup of a grade: what was found in its file, or where to get one. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { chosenFiles } from '../../api/files'
import type { Asset, Layout, ColourReading, LookupRef } from '../../api/types'
import { t } from '../../words'

const props = defineProps<{ lookup: LookupRef | null; asset: Asset | null; reading: ColourReading | null; busy: string | null }>()
const emit = defineEmits<{ file: [file: File]; layout: [layout: Layout]; remove: [] }>()

const chooser = ref<HTMLInputElement | null>(null)
const size = ref(33)
const form = ref<'strip' | 'grid' | 'hald' | 'cube'>('strip')
const bits = ref(16)
const SIZES = [16, 25, 32, 33, 36, 49, 64]
const WORDS = { strip: t('controls.aRowOfSlices'), grid: t('controls.aGridOfSlices'), hald: t('controls.hald'), 'cube file': '.cube', 'clf file': 'CLF', 'cdl file': t('controls.ascCdl') } as const

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
  const [file] = chosenFiles(event)
  if (file) emit('file', file)
}
</script>

<template>
  <div class="lookup">
    <input ref="chooser" type="file" hidden accept=".cube,.clf,.cdl,.cc,.ccc,.png,.jpg,.jpeg,.webp,.tif,.tiff,.bmp,.gif" @change="chosen" />
    <template v-if="lookup && asset && facts">
      <svg class="cloud" viewBox="0 0 104 112" role="img" :aria-label="t('controls.theLookupsColours')">
        <circle v-for="(dot, n) in dots" :key="n" :cx="dot.x" :cy="dot.y" r="2.6" :fill="dot.colour" />
      </svg>
      <div class="facts">
        <b class="file">{{ asset.name }}</b>
        <span>
          <span class="figure">{{ facts.size }}</span> {{ facts.kind === 'cube' ? t('controls.steps') : t('controls.entriesACurve')
          }}{{ found ? `, ${WORDS[found]}` : '' }}{{ facts.bits ? t('controls.bits', { bits: facts.bits }) : '' }}
        </span>
        <span v-if="facts.damaged" class="damaged" role="alert">
          {{ t('controls.damaged') }}<template v-if="facts.stored_as">{{ ' ' + t('controls.by', { storedas: facts.stored_as }) }}</template
          ><template v-if="facts.noise !== null">{{ t('controls.noise') }} <span class="figure">{{ facts.noise.toFixed(4) }}</span></template
          >{{ t('controls.coloursWillShiftAndBandExport') }}
        </span>
        <span v-else>
          <span class="ok">{{ t('controls.lossless') }}</span>
          <template v-if="facts.noise !== null">{{ ' ' + t('controls.noise2') }} <span class="figure">{{ facts.noise.toFixed(4) }}</span></template>
        </span>
        <span v-if="!facts.monotonic" class="second">{{ t('controls.foldsAlongGreySomeDarkerGreys') }}</span>
        <span v-if="others.length" class="second">
          {{ facts.sure ? '' : `${t('controls.fitsTwoLayouts')} ` }}
          <button v-for="other in others" :key="other" class="word" @click="emit('layout', other)">
            {{ t('controls.readItAs', { WORDS: WORDS[other] }) }}
          </button>
        </span>
        <span class="acts">
          <button class="word" @click="chooser?.click()">{{ t('controls.replace') }}</button>
          <button class="word" @click="emit('remove')">{{ t('controls.remove') }}</button>
          <a class="word" :href="`/api/assets/${lookup.asset}/file`" :download="asset.name">{{ t('controls.download') }}</a>
        </span>
      </div>
    </template>
    <div v-else-if="!lookup" class="empty">
      <p class="first">
        {{ t('controls.dropAGradedLookupHereOr') }}
        <button class="act" @click="chooser?.click()">{{ t('controls.chooseAFile') }}</button>
      </p>
      <p class="second">{{ t('controls.aCubeClfOrCdlFile') }}</p>
      <h3>{{ t('controls.noneGradedYetTakeANeutral') }}</h3>
      <p class="neutral">
        <select v-model.number="size" class="field figure" :aria-label="t('controls.steps2')">
          <option v-for="n in SIZES" :key="n" :value="n">{{ t('controls.steps3', { n }) }}</option>
        </select>
        <select v-model="form" class="field" :aria-label="t('controls.layout')">
          <option value="strip">{{ t('controls.rowOfSlices') }}</option>
          <option value="grid" :disabled="!square">{{ t('controls.gridOfSlices') }}</option>
          <option value="hald" :disabled="!square">{{ t('controls.hald') }}</option>
          <option value="cube">{{ t('controls.cubeFile') }}</option>
        </select>
        <select v-if="form !== 'cube'" v-model.number="bits" class="field" :aria-label="t('controls.bits2')">
          <option :value="16">{{ t('controls.n16Bits') }}</option>
          <option :value="8">{{ t('controls.n8Bits') }}</option>
        </select>
        <a v-if="square || form === 'strip' || form === 'cube'" class="word" :href="address" download>{{ t('controls.downloadNeutral') }}</a>
        <span v-else class="second">{{ t('controls.n16253649Or64') }}</span>
      </p>
    </div>
    <p v-else-if="!asset" class="second" role="status">{{ t('controls.readingTheLookup') }}</p>
    <p v-if="busy" class="second busy" role="status">{{ t('controls.reading', { busy }) }}</p>
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
