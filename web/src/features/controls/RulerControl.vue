<!--
  One number: name, ruler with a tick at the default and a bar from there, field with its unit. Drag, arrow keys, or type a
  number or small sum; a double click takes the default.
-->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { sum } from '../../document/layers'
import { t } from '../../words'
import { useNudging } from './useNudging'

const props = withDefaults(
  defineProps<{ name: string; value: number; neutral: number; unit?: string; low?: number; high?: number; scale?: number; whole?: boolean }>(),
  { unit: '%', low: 0, high: 1, scale: 100, whole: false },
)
/** `turn` while moving, `commit` at the end of the gesture, which is also where the focus leaves; where nothing was turned it is nothing. */
const emit = defineEmits<{ turn: [value: number]; commit: [] }>()

const nudging = useNudging(() => emit('commit'))
const rail = ref<HTMLElement | null>(null)
/** Why what was typed is not what stands there. */
const wrong = ref('')
const SAID_MS = 5000
let timer = 0
let start = 0
let dragged = false

const STEP = 0.01
const place = (value: number) => `${((value - props.low) / (props.high - props.low)) * 100}%`
const bar = computed(() => {
  const [from, to] = [props.neutral, props.value].sort((a, b) => a - b) as [number, number]
  return { left: place(from), width: `${((to - from) / (props.high - props.low)) * 100}%` }
})
const digits = computed(() => {
  const span = (props.high - props.low) * props.scale
  return props.whole ? 0 : span >= 20 ? 1 : span >= 1 ? 2 : 3
})
const shown = computed(() => Number((props.value * props.scale).toFixed(digits.value)).toString())

function turn(value: number): void {
  const inside = Math.min(props.high, Math.max(props.low, value))
  const fine = props.whole ? Math.round(inside) : Number(inside.toFixed(4))
  if (fine !== props.value) emit('turn', fine)
}

function follow(event: PointerEvent): void {
  const box = rail.value?.getBoundingClientRect()
  if (box) turn(props.low + ((event.clientX - box.left) / box.width) * (props.high - props.low))
}

function grab(event: PointerEvent): void {
  if (event.button !== 0) return
  start = props.value
  dragged = true
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  follow(event)
}

function release(): void {
  if (!dragged) return
  dragged = false
  if (props.value !== start) emit('commit')
}

function key(event: KeyboardEvent): void {
  const fine = STEP * (props.high - props.low)
  const step = (event.shiftKey ? 10 : 1) * (props.whole ? Math.max(1, Math.round(fine)) : fine)
  const to = {
    ArrowRight: props.value + step,
    ArrowUp: props.value + step,
    ArrowLeft: props.value - step,
    ArrowDown: props.value - step,
    Home: props.low,
    End: props.high,
  }[event.key]
  if (to === undefined) return
  event.preventDefault()
  nudging.down(event)
  turn(to)
}

/** Held down, the name shows the default; let go, the value is back. Nothing is saved. */
let against: number | null = null
function compare(event: PointerEvent): void {
  if (event.button !== 0 || props.value === props.neutral) return
  against = props.value
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  emit('turn', props.neutral)
}
function letGo(): void {
  if (against === null) return
  emit('turn', against)
  against = null
}

function reset(): void {
  if (props.value === props.neutral) return
  emit('turn', props.neutral)
  emit('commit')
}

function typed(event: Event): void {
  const field = event.target as HTMLInputElement
  const value = sum(field.value.replace(props.unit, ''))
  wrong.value = value === null ? t('controls.aNumberOrASumLike') : ''
  if (value === null) return
  const to = value / props.scale
  if (to < props.low - 1e-9 || to > props.high + 1e-9) {
    const ends = [props.low, props.high].map((end) => Number((end * props.scale).toFixed(digits.value)))
    wrong.value = t('controls.itGoesFromToItIs', { ends: ends[0], ends2: ends[1], which: props.unit ? ` ${props.unit}` : '' })
    window.clearTimeout(timer)
    timer = window.setTimeout(() => ((wrong.value = ''), (timer = 0)), SAID_MS)
  }
  turn(to)
  emit('commit')
  requestAnimationFrame(() => (field.value = shown.value))
}

function leave(event: FocusEvent): void {
  ;(event.target as HTMLInputElement).value = shown.value
  if (!timer) wrong.value = ''
}
</script>

<template>
  <div class="control" :data-control="name">
    <span
      class="name" :title="t('controls.holdTheDefaultDoubleClickBack')" @dblclick="reset" @pointerdown="compare" @pointerup="letGo"
      @pointercancel="letGo">{{ name }}</span>
    <span
      class="rail" role="slider" tabindex="0" :aria-label="name" :aria-valuemin="low * scale" :aria-valuemax="high * scale"
      :aria-valuenow="Number(shown)" :aria-valuetext="`${shown} ${unit}`"
      @pointerdown="grab" @pointermove="dragged && follow($event)" @pointerup="release" @pointercancel="release"
      @dblclick="reset" @keydown="key" @keyup="nudging.up" @blur="nudging.end">
      <span ref="rail" class="line">
        <i class="tick" :style="{ left: place(neutral) }" />
        <i class="bar" :style="bar" />
        <i class="hand" :style="{ left: place(value) }" />
      </span>
    </span>
    <label class="number figure" :class="{ wrong }">
      <input
        class="field" :value="shown" :aria-label="t('controls.in', { name, unit })" inputmode="decimal" spellcheck="false"
        @change="typed" @blur="leave" @focus="($event.target as HTMLInputElement).select()" />
      <span class="unit" :title="unit">{{ unit }}</span>
    </label>
    <span v-if="wrong" class="reason" role="alert">{{ wrong }}</span>
  </div>
</template>

<style scoped>
.name {
  cursor: default;
  user-select: none;
}
.rail {
  height: 26px;
  display: flex;
  align-items: center;
  touch-action: none;
  cursor: ew-resize;
}
.line {
  position: relative;
  width: 100%;
  height: 2px;
  background: #cdc7b6;
}
.line i {
  position: absolute;
}
.tick {
  width: 1px;
  height: 8px;
  top: -3px;
  background: var(--second);
}
.bar {
  height: 2px;
  top: 0;
  background: var(--ink);
}
.hand {
  width: 3px;
  height: 14px;
  margin-left: -1px;
  top: -6px;
  background: var(--ink);
}
.rail:hover .hand {
  height: 18px;
  top: -8px;
}
.number {
  display: flex;
  align-items: baseline;
  gap: 3px;
  font-size: 13px;
}
.number .field {
  width: 100%;
  text-align: right;
}
/* The longest unit leaves room for a number of five signs. */
.unit {
  flex: none;
  max-width: 44px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--faint);
  font-size: 11.5px;
}
.wrong .field {
  border-color: var(--bad);
}
</style>
