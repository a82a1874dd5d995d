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

const { catalogue } = useCatalogue()
const ways = computed(() => catalogue.value?.drives ?? [])
const way = computed(() => ways.value.find((one) => one.kind === props.drive?.kind))
/** The ends between which it moves are in the driven control's own unit and range. */
const lines = computed<Control[]>(() =>
  (way.value?.controls ?? []).map((one) => (one.driven ? { ...props.control, name: one.name, title: one.title } : one)),
)
const title = computed(() => way.value?.name ?? 'drive of a newer version')
const socketed = computed(() => canBeDriven(props.control, catalogue.value?.types))

function choose(event: Event): void {
  const wanted = ways.value.find((one) => one.kind === (event.target as HTMLSelectElement).value)
  if (!wanted) {
    emit('drive', null)
    return
  }
  const { low, high } = props.control
  const now = Number(props.value ?? 0)
  // An eighth of the range to either side: seen at once, and not too much.
  const reach = low !== null && high !== null ? (high - low) / 8 : 0.25
  const from = Number(Math.max(low ?? -Infinity, now - reach).toFixed(4))
  const to = Number(Math.min(high ?? Infinity, now + reach).toFixed(4))
  const ends = wanted.controls.filter((one) => one.driven).map((one, n): [string, number] => [one.name, n ? to : from])
  emit('drive', { kind: wanted.kind, values: { ...wanted.start, ...Object.fromEntries(ends) } })
}
</script>

<template>
  <div class="driven-line" :class="{ socketed }">
    <p v-if="drive" class="control driven"><span>{{ control.title }}</span><b>driven by a {{ title.toLowerCase() }}</b></p>
    <ControlLine
      v-else :control="control" :value="value" :stages="stages" @turn="emit('turn', $event)" @commit="emit('commit')" @choose="emit('choose', $event)" />
    <label v-if="socketed" class="socket" :class="{ filled: drive }" :title="drive ? `Driven by a ${title.toLowerCase()}` : 'Nothing drives it'">
      <select :aria-label="`What drives ${control.title}`" :value="drive?.kind ?? ''" @change="choose">
        <option value="">Nothing</option>
        <option v-for="one in ways" :key="one.kind" :value="one.kind" :title="one.help">{{ one.name }}</option>
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
