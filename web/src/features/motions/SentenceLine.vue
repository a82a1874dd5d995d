<!-- What a drive or a cue does, as a sentence. The underlined words in it are its controls: numbers are typed, turned with the arrow keys or
dragged sideways; words are chosen. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Control, Plain } from '../../api/types'
import { piecesOf } from '../../document/motions'
import { scaleOf, sum } from '../../document/layers'
import { useMotions } from './useMotions'
import { t } from '../../words'
import { useNudging } from '../controls/useNudging'

const props = defineProps<{ sentence: string; controls: Control[]; values: Record<string, Plain>; drive?: string }>()
/** `turn` while moving, `commit` at the end of the gesture; `choose` is both at once. */
const emit = defineEmits<{ turn: [name: string, value: Plain]; commit: []; choose: [name: string, value: Plain] }>()
const nudging = useNudging(() => emit('commit'))

const motions = useMotions()
const by = (name: string) => props.controls.find((one) => one.name === name)
const stands = (name: string): Plain => props.values[name] ?? by(name)?.default ?? null
const pieces = computed(() => piecesOf(props.sentence, stands).map((piece) => (typeof piece === 'string' ? piece : (by(piece.control) ?? ''))))
const PIXELS_A_STEP = 3
/** What the seconds of smoothing are called. */
const WITHIN = 'Within'

const isWord = (control: Control) => ['choice', 'boolean', 'cue', 'dial'].includes(control.type)
function words(control: Control): [string, string][] {
  if (control.type === 'boolean') return [['true', t('motions.yes')], ['false', t('motions.no')]]
  if (control.type === 'dial') return (motions?.dials.value ?? []).map((one) => [one.id, one.title])
  return control.choices.map((one) => [one, one])
}
function chosen(control: Control, event: Event): void {
  const { value } = event.target as HTMLSelectElement
  emit('choose', control.name, control.type === 'boolean' ? value === 'true' : value)
}

function shown(control: Control): string {
  const { scale, digits } = scaleOf(control)
  return Number((Number(stands(control.name)) * scale).toFixed(digits)).toString()
}
const unit = (control: Control) => scaleOf(control).unit
function held(control: Control, value: number): number {
  const inside = Math.min(control.high ?? Infinity, Math.max(control.low ?? -Infinity, value))
  return control.type === 'whole' ? Math.round(inside) : Number(inside.toFixed(4))
}
function typed(control: Control, event: Event): void {
  const field = event.target as HTMLInputElement
  const value = sum(field.value)
  if (value !== null) {
    const next = held(control, value / scaleOf(control).scale)
    if (next !== Number(stands(control.name))) emit('choose', control.name, next)
  }
  field.value = shown(control)
}
/** What can be done with a number; of smoothing also what share of the way it goes in a frame, as people know it. */
function hint(control: Control): string {
  const words = t('motions.typeDragOrTurn', { title: control.title })
  const seconds = Number(stands(control.name))
  if (control.unit !== 'seconds' || control.title !== WITHIN || !(seconds > 0)) return words
  return `${words}. ${t('motions.shareAFrame', { share: (1 - Math.exp(-1 / (30 * seconds))).toPrecision(2) })}`
}
const stepOf = (control: Control) => (control.type === 'whole' ? 1 : control.low !== null && control.high !== null ? (control.high - control.low) / 100 : 0.01)
function key(control: Control, event: KeyboardEvent): void {
  const way = { ArrowUp: 1, ArrowDown: -1 }[event.key]
  if (event.key === 'Enter') (event.target as HTMLElement).blur()
  if (!way) return
  event.preventDefault()
  emit('turn', control.name, held(control, Number(stands(control.name)) + way * stepOf(control) * (event.shiftKey ? 10 : 1)))
}
let from: { x: number; value: number; moved: boolean } | null = null
function grab(control: Control, event: PointerEvent): void {
  if (event.button === 0) from = { x: event.clientX, value: Number(stands(control.name)), moved: false }
}
function drag(control: Control, event: PointerEvent): void {
  if (!from || !event.buttons) return
  const steps = Math.trunc((event.clientX - from.x) / PIXELS_A_STEP)
  if (!steps && !from.moved) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  from.moved = true
  emit('turn', control.name, held(control, from.value + steps * stepOf(control)))
}
function release(event: PointerEvent): void {
  if (from?.moved) {
    emit('commit')
    ;(event.currentTarget as HTMLElement).blur()
  }
  from = null
}
</script>

<template>
  <p class="sentence">
    <template v-for="(piece, n) in pieces" :key="n">
      <template v-if="typeof piece === 'string'">{{ piece }}</template>
      <select v-else-if="isWord(piece)" class="inline" :value="String(stands(piece.name))" :aria-label="piece.title" :title="piece.title" @change="chosen(piece, $event)">
        <template v-if="piece.type === 'cue'">
          <optgroup v-if="motions?.cues.value.own.length" :label="t('motions.ofThisEffect')">
            <option v-for="[id, name] in motions.cues.value.own" :key="id" :value="id">{{ name }}</option>
          </optgroup>
          <optgroup :label="t('motions.kindsOfCues')">
            <option v-for="[id, name] in motions?.cues.value.kinds" :key="id" :value="id">{{ name }}</option>
          </optgroup>
        </template>
        <option v-for="[value, title] in words(piece)" v-else :key="value" :value="value">{{ title }}</option>
      </select>
      <span v-else class="number"
        ><input
          class="inline figure" :value="shown(piece)" :size="Math.max(2, shown(piece).length)" :aria-label="`${piece.title}${unit(piece) ? `, ${unit(piece)}` : ''}`"
          :title="hint(piece)" @change="typed(piece, $event)" @keydown="nudging.down($event), key(piece, $event)" @keyup="nudging.up" @blur="nudging.end"
          @pointerdown="grab(piece, $event)" @pointermove="drag(piece, $event)" @pointerup="release" @pointercancel="release"
        /><span v-if="unit(piece)" class="unit">{{ unit(piece) }}</span></span
      >
    </template>
    <slot />
  </p>
</template>

<style scoped>
.sentence {
  line-height: 1.75;
}
.inline {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  border-bottom: 1.5px solid currentcolor;
  border-radius: 0;
  padding: 0 1px;
}
select.inline {
  appearance: none;
  field-sizing: content;
  max-width: 200px;
  cursor: pointer;
}
select.inline option,
select.inline optgroup {
  color: var(--ink);
  background: var(--paper);
}
input.inline {
  font-family: var(--mono);
  font-size: 12px;
  text-align: center;
  cursor: ew-resize;
  touch-action: none;
  field-sizing: content;
  min-width: 14px;
}
input.inline:focus {
  cursor: text;
}
.number {
  white-space: nowrap;
}
.unit {
  margin-left: 2px;
  font-size: 12px;
}
.inline:focus-visible {
  outline: 2px solid currentcolor;
  outline-offset: 1px;
}
</style>
