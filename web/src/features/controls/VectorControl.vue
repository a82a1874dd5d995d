<!-- Two to four numbers on one line: drag one sideways, arrow keys, or type a number or small sum. Those that something drives wait. -->
<script setup lang="ts">
import { ref } from 'vue'
import { sum } from '../../document/layers'
import { t } from '../../words'
import { useNudging } from './useNudging'

const props = withDefaults(
  defineProps<{ name: string; value: number[]; neutral: number[]; low?: number; high?: number; unit?: string; scale?: number; parts?: string[]; driven?: number[] }>(),
  { low: -Infinity, high: Infinity, unit: '', scale: 1, parts: () => ['x', 'y', 'z', 'w'], driven: () => [] },
)
const emit = defineEmits<{ turn: [value: number[]]; commit: [] }>()
const nudging = useNudging(() => emit('commit'))

const STEP = 0.005
const wrong = ref(false)
let held: { part: number; x: number; start: number; moved: boolean } | null = null

const shown = (part: number) => Number(((props.value[part] ?? 0) * props.scale).toFixed(props.scale === 1 ? 3 : 1)).toString()

function put(part: number, number: number): void {
  const fine = Number(Math.min(Math.max(number, props.low), props.high).toFixed(4))
  if (fine !== props.value[part]) emit('turn', props.value.map((old, n) => (n === part ? fine : old)))
}

function grab(event: PointerEvent, part: number): void {
  if (event.button !== 0 || document.activeElement === event.currentTarget) return
  held = { part, x: event.clientX, start: props.value[part] ?? 0, moved: false }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}

function follow(event: PointerEvent): void {
  if (!held || (!held.moved && Math.abs(event.clientX - held.x) < 4)) return
  held.moved = true
  put(held.part, held.start + (event.clientX - held.x) * STEP)
}

function release(): void {
  if (held?.moved) {
    emit('commit')
    ;(document.activeElement as HTMLElement | null)?.blur()
  }
  held = null
}

function key(event: KeyboardEvent, part: number): void {
  const step = { ArrowUp: STEP, ArrowDown: -STEP }[event.key]
  if (!step) return
  event.preventDefault()
  put(part, (props.value[part] ?? 0) + step * (event.shiftKey ? 10 : 1))
}

function typed(event: Event, part: number): void {
  const number = sum((event.target as HTMLInputElement).value.replace(props.unit, ''))
  wrong.value = number === null
  if (number === null) return
  put(part, number / props.scale)
  emit('commit')
}

function reset(): void {
  if (!props.neutral.length || props.neutral.every((number, n) => number === props.value[n])) return
  emit('turn', [...props.neutral])
  emit('commit')
}
</script>

<template>
  <div class="vector" :data-control="name">
    <span class="name" :title="t('controls.doubleClickBackToTheDefault')" @dblclick="reset">{{ name }}</span>
    <span class="parts">
      <label v-for="(_, part) in value" :key="part" class="figure">
        <span class="part">{{ parts[part] }}</span>
        <input
          class="field" :value="driven.includes(part) ? 'driven' : shown(part)" :disabled="driven.includes(part)" :aria-label="`${name} ${parts[part]}${unit ? ` ${t('controls.in2', { unit })}` : ''}`" inputmode="decimal"
          spellcheck="false" :title="t('controls.dragSidewaysOrType')" @change="typed($event, part)" @pointerdown="grab($event, part)"
          @pointermove="follow" @pointerup="release" @pointercancel="release" @keydown="nudging.down($event), key($event, part)"
          @keyup="nudging.up" @blur="nudging.end" />
      </label>
      <span class="unit figure">{{ unit }}</span>
    </span>
    <span v-if="wrong" class="reason" role="alert">{{ t('controls.aNumberOrASumLike') }}</span>
  </div>
</template>

<style scoped>
.vector {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  column-gap: 14px;
  align-items: center;
  min-height: 34px;
  position: relative;
}
.name {
  user-select: none;
  cursor: default;
}
.parts {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.parts label {
  display: flex;
  gap: 6px;
  align-items: baseline;
  flex: 1;
  min-width: 0;
}
.part,
.unit {
  color: var(--faint);
  font-size: 12px;
}
.parts .field {
  width: 100%;
  text-align: right;
  cursor: ew-resize;
}
.parts .field:focus {
  cursor: text;
}
.reason {
  color: var(--bad);
  font-size: 12px;
  grid-column: 2;
}
</style>
