<!-- A control with its socket: empty, or filled where something drives it, with words below that say what and how. Of a vector each
part is driven by itself. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Asset, Control, Drive, Plain } from '../../api/types'
import { useCatalogue } from '../../document/useCatalogue'
import { drivenParts } from '../../document/layers'
import { endsFor } from '../../document/motions'
import ControlLine from '../controls/ControlLine.vue'
import SentenceLine from '../motions/SentenceLine.vue'
import { useMotions } from '../motions/useMotions'
import { t } from '../../words'

/** `drives`: those of the layer, in which this control's are named with `before` before its name. `still`: said in place of a ruler while nothing drives it. */
const props = defineProps<{ control: Control; value: Plain; stages: [string, string][]; drives: Record<string, Drive>; before?: string; still?: string }>()
const emit = defineEmits<{
  turn: [value: Plain]
  commit: []
  choose: [value: Plain, asset?: Asset]
  drive: [part: string, title: string, drive: Drive | null]
  turnDrive: [part: string, name: string, value: Plain]
  /** Look at what a drive is made of. */
  open: [part: string, title: string]
}>()

const { catalogue, ports } = useCatalogue()
const motions = useMotions()
const ways = computed(() => (catalogue.value?.drives ?? []).filter((one) => (one.family === 'colour') === (props.control.type === 'colour')))
/** Kinds of drives by what they come from. */
const families = computed(() => {
  const titles: Record<string, string> = { 'by itself': t('motions.byItself'), follows: t('motions.follows'), cue: t('motions.byACue'), dial: t('motions.byTheWearer'), colour: t('motions.byTheWearer') }
  return [...new Set(Object.keys(titles))].map((family) => ({ title: titles[family] ?? '', ways: ways.value.filter((one) => one.family === family) })).filter((one) => one.ways.length)
})
const parts = computed(() => drivenParts(props.control, catalogue.value?.types))
const single = computed(() => parts.value.length === 1 && parts.value[0]?.name === props.control.name)
const driven = computed(() =>
  parts.value.flatMap((part, n) => {
    const name = (props.before ?? '') + part.name
    const drive = props.drives[name]
    const way = ways.value.find((one) => one.kind === drive?.kind)
    // The ends between which it moves are in the driven control's own unit and range.
    const own = { ...props.control, type: props.control.type === 'boolean' || props.control.type === 'whole' ? ('whole' as const) : ('number' as const), default: number(n), low: props.control.type === 'boolean' ? 0 : props.control.low, high: props.control.type === 'boolean' ? 1 : props.control.high }
    const controls = drive?.recipe && ports.value ? ports.value.controls(drive.recipe) : (way?.controls ?? [])
    const lines = controls.map((one): Control => (one.driven ? { ...own, name: one.name, title: one.title } : one))
    return drive ? [{ ...part, name, n, drive, lines, sentence: drive.recipe?.sentence || way?.sentence || '', words: (drive.recipe?.name ?? way?.name ?? t('desk.driveOfANewerVersion')).toLowerCase() }] : []
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
  const now = number(n)
  const ends = endsFor(wanted, props.control, now)
  const turns = wanted.controls.some((one) => one.type === 'dial')
  const [low = 0, high = 1] = ends.map(([, end]) => end)
  const start = wanted.kind !== 'dial' ? (props.control.type === 'colour' ? String(props.value).slice(0, 7) : undefined) : high === low ? 0 : Math.min(1, Math.max(0, (now - low) / (high - low)))
  const dial: Record<string, Plain> = turns ? { dial: motions?.dial(wanted.kind, part.title, start) ?? '' } : {}
  emit('drive', name, part.title, { kind: wanted.kind, values: { ...wanted.start, ...Object.fromEntries(ends), ...dial }, recipe: null } as Drive)
}

/** A cue that is answered to and can be tuned is one of the effect's own. */
function changed(one: { name: string; title: string; drive: Drive }, control: string, value: Plain): void {
  const plain = control === 'cue' && typeof value === 'string' ? (motions?.owned(value) ?? value) : value
  emit('drive', one.name, one.title, { ...one.drive, values: { ...one.drive.values, [control]: plain } })
}
</script>

<template>
  <div class="driven-line" :class="{ socketed: parts.length }">
    <div v-if="whole" class="control driven">
      <span>{{ control.title }}</span>
      <SentenceLine
        v-for="one in driven" :key="one.name" class="moves" :sentence="one.sentence || one.words" :controls="one.lines" :values="one.drive.values"
        @turn="(name, value) => emit('turnDrive', one.name, name, value)" @commit="emit('commit')" @choose="(name, value) => changed(one, name, value)">
        <button class="word open" @click="emit('open', one.name, one.title)">{{ t('desk.recipe') }}</button>
      </SentenceLine>
    </div>
    <p v-else-if="still" class="control driven"><span>{{ control.title }}</span><span class="second">{{ still }}</span></p>
    <ControlLine
      v-else :control="control" :value="value" :stages="stages" :driven="driven.map((one) => one.n)" @turn="emit('turn', $event)" @commit="emit('commit')"
      @choose="(plain, asset) => emit('choose', plain, asset)" />
    <label v-if="parts.length" class="socket" :class="{ filled: driven.length }" :title="title">
      <select v-if="single" :aria-label="t('desk.whatDrives', { title: control.title })" :value="driven[0]?.drive.kind ?? ''" @change="choose">
        <option value="">{{ t('desk.nothing') }}</option>
        <optgroup v-for="family in families" :key="family.title" :label="family.title">
          <option v-for="one in family.ways" :key="one.kind" :value="one.kind" :title="one.help">{{ one.name }}</option>
        </optgroup>
      </select>
      <select v-else :aria-label="t('desk.whatDrives', { title: control.title })" value="" @change="choose">
        <option value="" hidden>{{ t('desk.nothing') }}</option>
        <optgroup v-for="(part, n) in parts" :key="part.name" :label="part.title">
          <option :value="`${n}:`">{{ t('desk.nothing2', { title: part.title }) }}</option>
          <option v-for="one in ways" :key="one.kind" :value="`${n}:${one.kind}`" :title="one.help">{{ part.title }}: {{ one.name.toLowerCase() }}</option>
        </optgroup>
      </select>
    </label>
    <div v-for="one in whole ? [] : driven" :key="one.name" class="control driven">
      <span class="part">{{ one.title }}</span>
      <SentenceLine
        class="moves" :sentence="one.sentence || one.words" :controls="one.lines" :values="one.drive.values" @turn="(name, value) => emit('turnDrive', one.name, name, value)"
        @commit="emit('commit')" @choose="(name, value) => changed(one, name, value)">
        <button class="word open" @click="emit('open', one.name, one.title)">{{ t('desk.recipe') }}</button>
      </SentenceLine>
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
.moves {
  color: var(--glaze);
  font-weight: 650;
}
.driven:has(.moves) {
  align-items: baseline;
  height: auto;
  min-height: 34px;
  padding: 5px 0 7px;
}
.second {
  color: var(--second);
}
.open {
  margin-left: 8px;
  font-weight: 500;
  font-size: 12px;
  color: var(--second);
}
.part {
  padding-left: 14px;
  color: var(--second);
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
