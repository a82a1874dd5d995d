<!-- A control with its socket: empty, or filled where something drives it, with words below that say what and how. Of a vector each
part is driven by itself. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Asset, Control, Drive, Plain } from '../../api/types'
import { useCatalogue } from '../../document/useCatalogue'
import { drivenParts } from '../../document/layers'
import ControlLine from '../controls/ControlLine.vue'
import { t } from '../../words'

/** `drives`: those of the layer, in which this control's are named with `before` before its name. */
const props = defineProps<{ control: Control; value: Plain; stages: [string, string][]; drives: Record<string, Drive>; before?: string }>()
const emit = defineEmits<{
  turn: [value: Plain]
  commit: []
  choose: [value: Plain, asset?: Asset]
  drive: [part: string, title: string, drive: Drive | null]
  turnDrive: [part: string, name: string, value: Plain]
}>()

const { catalogue } = useCatalogue()
const ways = computed(() => catalogue.value?.drives ?? [])
const parts = computed(() => drivenParts(props.control, catalogue.value?.types))
const single = computed(() => parts.value.length === 1 && parts.value[0]?.name === props.control.name)
const driven = computed(() =>
  parts.value.flatMap((part, n) => {
    const name = (props.before ?? '') + part.name
    const drive = props.drives[name]
    const way = ways.value.find((one) => one.kind === drive?.kind)
    // The ends between which it moves are in the driven control's own unit and range.
    const own = { ...props.control, type: 'number' as const, default: number(n) }
    const lines = (way?.controls ?? []).map((one): Control => (one.driven ? { ...own, name: one.name, title: one.title } : one))
    return drive ? [{ ...part, name, n, drive, lines, words: (way?.name ?? t('desk.driveOfANewerVersion')).toLowerCase() }] : []
  }),
)
const whole = computed(() => single.value && driven.value.length > 0)
const title = computed(() => (driven.value.length ? driven.value.map((one) => t('desk.drivenByA', { which: single.value ? '' : `${one.title} `, words: one.words })).join(', ') : t('desk.nothingDrivesIt')))

function number(n: number): number {
  return Number(Array.isArray(props.value) ? (props.value[n] ?? 0) : (props.value ?? 0))
}

/** What is chosen: a kind of drive, of a vector with the part's number before it; no kind is nothing. */
function choose(event: Event): void {
  const { value } = event.target as HTMLSelectElement
  const [n, kind] = single.value ? [0, value] : [Number(value.split(':')[0]), value.split(':')[1]]
  const part = parts.value[n]
  if (!part) return
  const name = (props.before ?? '') + part.name
  const wanted = ways.value.find((one) => one.kind === kind)
  if (!wanted) return emit('drive', name, part.title, null)
  // Places on the screen have no range of their own.
  const screen = props.control.unit === 'screen'
  const [low, high] = [props.control.low ?? (screen ? 0 : null), props.control.high ?? (screen ? 1 : null)]
  const now = number(n)
  // An eighth of the range to either side: seen at once, and not too much.
  const reach = low !== null && high !== null ? (high - low) / 8 : 0.25
  const from = Number(Math.max(props.control.low ?? -Infinity, now - reach).toFixed(4))
  const to = Number(Math.min(props.control.high ?? Infinity, now + reach).toFixed(4))
  const ends = wanted.controls.filter((one) => one.driven).map((one, k): [string, number] => [one.name, k ? to : from])
  emit('drive', name, part.title, { kind: wanted.kind, values: { ...wanted.start, ...Object.fromEntries(ends) } })
}
</script>

<template>
  <div class="driven-line" :class="{ socketed: parts.length }">
    <p v-if="whole" class="control driven"><span>{{ control.title }}</span><b>{{ t('desk.drivenByA2', { words: driven[0]?.words }) }}</b></p>
    <ControlLine
      v-else :control="control" :value="value" :stages="stages" :driven="driven.map((one) => one.n)" @turn="emit('turn', $event)" @commit="emit('commit')"
      @choose="(plain, asset) => emit('choose', plain, asset)" />
    <label v-if="parts.length" class="socket" :class="{ filled: driven.length }" :title="title">
      <select v-if="single" :aria-label="t('desk.whatDrives', { title: control.title })" :value="driven[0]?.drive.kind ?? ''" @change="choose">
        <option value="">{{ t('desk.nothing') }}</option>
        <option v-for="one in ways" :key="one.kind" :value="one.kind" :title="one.help">{{ one.name }}</option>
      </select>
      <select v-else :aria-label="t('desk.whatDrives', { title: control.title })" value="" @change="choose">
        <option value="" hidden>{{ t('desk.nothing') }}</option>
        <optgroup v-for="(part, n) in parts" :key="part.name" :label="part.title">
          <option :value="`${n}:`">{{ t('desk.nothing2', { title: part.title }) }}</option>
          <option v-for="one in ways" :key="one.kind" :value="`${n}:${one.kind}`" :title="one.help">{{ part.title }}: {{ one.name.toLowerCase() }}</option>
        </optgroup>
      </select>
    </label>
    <div v-for="one in driven" :key="one.name" class="how">
      <p v-if="!single" class="part">{{ one.title }}: <b>{{ t('desk.drivenByA2', { words: one.words }) }}</b></p>
      <ControlLine
        v-for="line in one.lines" :key="line.name" :control="line" :value="one.drive.values[line.name] ?? line.default" :stages="stages"
        @turn="emit('turnDrive', one.name, line.name, $event)" @commit="emit('commit')"
        @choose="emit('drive', one.name, one.title, { ...one.drive, values: { ...one.drive.values, [line.name]: $event } })" />
    </div>
  </div>
</template>

<style scoped>
.driven-line {
  position: relative;
}
.socketed {
  padding-right: 24px;
}
.driven {
  grid-template-columns: 104px 1fr;
}
.driven b,
.part b {
  color: var(--glaze);
}
.how {
  margin-left: 14px;
  padding-left: 12px;
  border-left: 1px solid var(--line);
}
.socket {
  position: absolute;
  right: -5px;
  top: 5px;
  width: 24px;
  height: 24px;
}
.socket::before {
  content: '';
  position: absolute;
  inset: 5px;
  border: 1.5px solid var(--faint);
  border-radius: 50%;
}
.socket.filled::before {
  background: var(--glaze);
  border-color: var(--glaze);
}
.socket select {
  width: 24px;
  height: 24px;
  opacity: 0;
  cursor: pointer;
}
.socket:focus-within {
  outline: 2px solid var(--glaze);
  outline-offset: -2px;
}
</style>
