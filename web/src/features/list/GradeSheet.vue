<!-- The grade that the layers make, as a lookup: up to which layer, how many steps, in which form, and what is lost by it. -->
<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import { giveGrade, type GradeForm } from '../../api/files'
import type { Grade, Layer } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{ id: string; layers: Layer[]; settled: () => Promise<void> }>()
const open = defineModel<boolean>({ required: true })
const { complain } = useMessages()

const FORMS: [GradeForm, string][] = [
  ['cube', '.cube'], ['hald', t('list.haldPicture')], ['strip', t('list.stripPicture')], ['grid', t('list.gridPicture')], ['clf', 'CLF'], ['cdl', t('list.ascCdl')],
] // prettier-ignore
/** Steps that each form takes: Hald and grid need square numbers. */
const SIZES: Record<string, number[]> = { hald: [16, 25, 36, 64], grid: [16, 25, 36, 64], other: [17, 33, 65] }
const form = ref<GradeForm>('cube')
const size = ref(33)
const to = ref('')
const grade = shallowRef<Grade | null>(null)
const trouble = ref('')
const busy = ref(false)
const sizes = computed(() => SIZES[form.value] ?? SIZES.other ?? [])
watch(sizes, (now) => now.includes(size.value) || (size.value = now[1] ?? 33))

let asked = 0
watch(
  [open, size, to, () => props.layers],
  async ([shown]) => {
    const mine = ++asked
    if (!shown) return
    busy.value = true
    await props.settled()
    const found = await api.grade(props.id, size.value, to.value).catch((error: unknown) => String(error instanceof Error ? error.message : error))
    if (mine !== asked) return
    busy.value = false
    grade.value = typeof found === 'string' ? null : found
    trouble.value = typeof found === 'string' ? found : ''
    if (!grade.value?.is_decision && form.value === 'cdl') form.value = 'cube'
  },
  { immediate: true },
)

async function take(): Promise<void> {
  try {
    await giveGrade(props.id, form.value, size.value, to.value)
  } catch (error) {
    complain(error)
  }
}
const words = (n: number): string => n.toFixed(2)
</script>

<template>
  <section v-if="open" class="sheet hanging grade" :aria-label="t('list.theGradeAsALookup')" @keydown.esc="open = false">
    <header>
      <h2>{{ t('list.theGradeAsALookup') }}</h2>
      <span class="gap" />
      <button class="word" @click="open = false">{{ t('list.close') }}</button>
    </header>
    <p class="choices">
      <label>{{ t('list.layers') }}
        <select v-model="to" class="field" :aria-label="t('list.upToWhichLayer')">
          <option value="">{{ t('list.all') }}</option>
          <option v-for="layer in layers" :key="layer.id" :value="layer.id">{{ t('list.upTo', { name: layer.name }) }}</option>
        </select>
      </label>
      <label>{{ t('list.form') }}
        <select v-model="form" class="field" :aria-label="t('list.formOfTheLookup')">
          <option v-for="[one, title] in FORMS" :key="one" :value="one" :disabled="one === 'cdl' && !grade?.is_decision">{{ title }}</option>
        </select>
      </label>
      <label v-if="form !== 'cdl'">{{ t('list.steps') }}
        <select v-model.number="size" class="field figure" :aria-label="t('list.stepsAlongAnEdge')">
          <option v-for="one in sizes" :key="one" :value="one">{{ one }}</option>
        </select>
      </label>
      <button class="act main" :disabled="!grade" @click="take">{{ t('list.download') }}</button>
    </p>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <template v-if="grade">
      <p>{{ t('list.holds', { layers: grade.layers.join(', ') }) }}</p>
      <ul v-if="grade.left.length" class="left-out">
        <li v-for="one in grade.left" :key="one.layer"><b>{{ one.name }}</b> {{ t('list.isLeftOutIt', { why: one.why }) }}</li>
      </ul>
      <table v-if="form !== 'cdl'" :class="{ busy }">
        <thead>
          <tr><th>{{ t('list.lostByItCiede2000') }}</th><th>{{ t('list.mean') }}</th><th>{{ t('list.largest') }}</th></tr>
        </thead>
        <tbody>
          <tr><td>{{ t('list.overAllColours') }}</td><td class="figure">{{ words(grade.loss.mean) }}</td><td class="figure">{{ words(grade.loss.largest) }}</td></tr>
          <tr><td>{{ t('list.onSkin') }}</td><td class="figure">{{ words(grade.loss.skin_mean) }}</td><td class="figure">{{ words(grade.loss.skin_largest) }}</td></tr>
        </tbody>
      </table>
      <p v-else class="hint">{{ t('list.aDecisionListHoldsThisGrade') }}</p>
      <p v-if="form !== 'cdl'" class="hint">{{ t('list.aDifferenceBelow1IsNot') }}</p>
    </template>
    <p v-else-if="busy" role="status">{{ t('list.baking') }}</p>
  </section>
</template>

<style scoped>
header,
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: baseline;
  margin-bottom: 12px;
}
.gap {
  flex: 1;
}
.field {
  margin-left: 6px;
}
.choices .act {
  margin-left: auto;
}
.trouble {
  color: var(--bad);
  font-weight: 650;
}
.left-out {
  margin: 6px 0 0 18px;
}
table {
  margin-top: 12px;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  font-weight: 500;
  padding: 3px 24px 3px 0;
  border-top: 1px solid var(--line);
}
thead th {
  border: 0;
  color: var(--second);
}
.busy {
  opacity: 0.5;
}
.hint {
  margin-top: 8px;
  font-size: 12px;
  color: var(--second);
}
</style>
