<!-- The figures of all cells as a table that is sorted by any of them; outliers are marked. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { AXES, type Axis, type ProofCell } from './useProof'
import type { ProofPlace } from '../../api/types'
import { AXIS_NAMES } from './naming'
import { t } from '../../words'

const props = defineProps<{ cells: ProofCell[]; outliers: Record<string, string[]>; titles: (axis: Axis, key: string) => string }>()
type Column = { key: string; title: string; of: (cell: ProofCell) => number | string; words: (cell: ProofCell) => string; mark?: string }

const emit = defineEmits<{ open: [place: ProofPlace] }>()

const none = '–'
const columns = computed<Column[]>(() => [
  ...AXES.map((axis) => ({ key: axis, title: AXIS_NAMES[axis], of: (cell: ProofCell) => props.titles(axis, cell.place[axis]), words: (cell: ProofCell) => props.titles(axis, cell.place[axis]) })),
  { key: 'shift', title: t('proof.shift'), of: (cell) => cell.figures.shift ?? -1, words: (cell) => cell.figures.shift?.toFixed(1) ?? none, mark: 'shift' },
  { key: 'lightness', title: t('proof.lightness'), of: (cell) => cell.figures.lightness ?? 0, words: (cell) => (cell.figures.lightness == null ? none : `${cell.figures.lightness > 0 ? '+' : '−'}${Math.abs(cell.figures.lightness).toFixed(1)}`) },
  { key: 'clipped', title: t('proof.clipped'), of: (cell) => cell.figures.clipped, words: (cell) => `${(100 * cell.figures.clipped).toFixed(1)} %`, mark: 'clipped' },
  { key: 'contrast', title: t('proof.contrast'), of: (cell) => cell.figures.contrast, words: (cell) => cell.figures.contrast.toFixed(1), mark: 'contrast' },
  { key: 'bare', title: t('proof.bareContrast'), of: (cell) => cell.figures.bare_contrast, words: (cell) => cell.figures.bare_contrast.toFixed(1) },
  { key: 'eyes', title: t('proof.eyes'), of: (cell) => cell.figures.eyes ?? -1, words: (cell) => (cell.figures.eyes == null ? none : `${(100 * cell.figures.eyes).toFixed(0)} %`), mark: 'eyes' },
  { key: 'border', title: t('proof.border'), of: (cell) => cell.figures.border.length, words: (cell) => cell.figures.border.join(', ') || none, mark: 'border' },
  { key: 'flashes', title: t('proof.flashes'), of: (cell) => cell.figures.flash_share, words: (cell) => (cell.figures.flashes_harm ? `${cell.figures.flashes}/s` : none), mark: 'flashes' },
])
const by = ref('')
const down = ref(true)
const sorted = computed(() => {
  const column = columns.value.find((one) => one.key === by.value)
  if (!column) return props.cells
  const order = (a: ProofCell, b: ProofCell) => {
    const [one, two] = [column.of(a), column.of(b)]
    return typeof one === 'string' ? one.localeCompare(String(two)) : one - Number(two)
  }
  return [...props.cells].sort((a, b) => (down.value ? -1 : 1) * order(a, b))
})
function sort(key: string): void {
  down.value = by.value === key ? !down.value : !AXES.includes(key as Axis)
  by.value = key
}
</script>

<template>
  <div class="table">
    <table>
      <thead>
        <tr>
          <th v-for="one in columns" :key="one.key" :aria-sort="by === one.key ? (down ? 'descending' : 'ascending') : 'none'">
            <button @click="sort(one.key)">{{ one.title }}<span v-if="by === one.key" aria-hidden="true">{{ down ? ' ↓' : ' ↑' }}</span></button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="cell in sorted" :key="cell.key" @click="emit('open', cell.place)">
          <td v-for="(one, n) in columns" :key="one.key" :class="{ figure: one.mark, out: one.mark && outliers[cell.key]?.includes(one.mark) }">
            <button v-if="n === 0" class="go" :title="t('proof.openInTheWorkbench')" @click.stop="emit('open', cell.place)">{{ one.words(cell) }}</button>
            <template v-else>{{ one.words(cell) }}</template>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.table {
  overflow: auto;
  padding: 16px 24px 40px;
  background: var(--paper);
}
table {
  border-collapse: collapse;
}
th {
  position: sticky;
  top: 0;
  background: var(--paper);
  padding: 6px 18px 8px 0;
  text-align: left;
  font-weight: 500;
  white-space: nowrap;
}
td {
  padding: 5px 18px 5px 0;
  border-top: 1px solid var(--line);
  white-space: nowrap;
}
tbody tr {
  cursor: pointer;
}
tbody tr:hover {
  background: var(--ground);
}
.out {
  color: var(--glaze);
  font-weight: 650;
}
</style>
