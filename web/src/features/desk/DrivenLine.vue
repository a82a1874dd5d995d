<!-- A control with its socket: empty, or filled where something drives it, with words below that say what and how. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Control, Drive, Plain } from '../../api/types'
import { useCatalogue } from '../../document/useCatalogue'
import { canBeDriven } from '../../document/layers'
import ControlLine from '../controls/ControlLine.vue'

const props = defineProps<{ control: Control; value: Plain; stages: [string, string][]; drive: Drive | null }>()
const emit = defineEmits<{
  turn: [value: Plain]
  commit: []
  choose: [value: Plain]
  drive: [drive: Drive | null]
  turnDrive: [name: string, value: Plain]
}>()

const WAYS = [['pulse', 'Pulse'], ['wander', 'Wander'], ['time-ramp', 'Ramp from the start'], ['random-per-frame', 'Jump by chance']] as const // prettier-ignore
/** Of each way only what an artist turns; the rest stands at its default. */
const SHOWN: Record<string, string[]> = {
  pulse: ['low', 'high', 'seconds', 'how'],
  wander: ['low', 'high', 'rate'],
  'time-ramp': ['start', 'end', 'seconds', 'easing'],
  'random-per-frame': ['low', 'high', 'every'],
}
const STARTS: Record<string, Drive['values']> = {
  pulse: { seconds: 2, how: 'smooth' },
  wander: { rate: 0.5 },
  'time-ramp': { seconds: 2 },
  'random-per-frame': { every: 6 },
}
const ENDS: Record<string, 'low' | 'high'> = { low: 'low', start: 'low', high: 'high', end: 'high' }

const { catalogue } = useCatalogue()
const lines = computed<Control[]>(() => {
  const kind = catalogue.value?.nodes.find((one) => one.kind === props.drive?.node)
  const wanted = SHOWN[props.drive?.node ?? ''] ?? []
  return wanted.flatMap((name) => {
    const port = kind?.inputs.find((one) => one.name === name)
    if (!port) return []
    // From and to are in the driven control's own unit and range.
    return [ENDS[name] ? { ...props.control, name, title: ENDS[name] === 'low' ? 'From' : 'To' } : port]
  })
})
const title = computed(() => WAYS.find(([node]) => node === props.drive?.node)?.[1] ?? '')

function choose(event: Event): void {
  const node = (event.target as HTMLSelectElement).value
  if (!node) {
    emit('drive', null)
    return
  }
  const { low, high } = props.control
  const now = Number(props.value ?? 0)
  // An eighth of the range to either side: seen at once, and not too much.
  const reach = low !== null && high !== null ? (high - low) / 8 : 0.25
  const from = Number(Math.max(low ?? -Infinity, now - reach).toFixed(4))
  const to = Number(Math.min(high ?? Infinity, now + reach).toFixed(4))
  const ends: Drive['values'] = node === 'time-ramp' ? { start: from, end: to } : { low: from, high: to }
  emit('drive', { node: node as Drive['node'], values: { ...ends, ...STARTS[node] } })
}
</script>

<template>
  <div class="driven-line" :class="{ socketed: canBeDriven(control) }">
    <p v-if="drive" class="control driven"><span>{{ control.title }}</span><b>driven by a {{ title.toLowerCase() }}</b></p>
    <ControlLine
      v-else :control="control" :value="value" :stages="stages" @turn="emit('turn', $event)" @commit="emit('commit')" @choose="emit('choose', $event)" />
    <label v-if="canBeDriven(control)" class="socket" :class="{ filled: drive }" :title="drive ? `Driven by a ${title.toLowerCase()}` : 'Nothing drives it'">
      <select :aria-label="`What drives ${control.title}`" :value="drive?.node ?? ''" @change="choose">
        <option value="">Nothing</option>
        <option v-for="[node, words] in WAYS" :key="node" :value="node">{{ words }}</option>
      </select>
    </label>
    <div v-if="drive" class="how">
      <ControlLine
        v-for="line in lines" :key="line.name" :control="line" :value="drive.values[line.name] ?? line.default" :stages="stages"
        @turn="emit('turnDrive', line.name, $event)" @commit="emit('commit')"
        @choose="emit('drive', { ...drive, values: { ...drive.values, [line.name]: $event } })" />
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
.driven b {
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
