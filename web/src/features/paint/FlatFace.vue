<!-- The flat face with its shapes: points are dragged, put on the line and taken away; a new shape is clicked point by point. -->
<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { TEMPLATE, type Shape } from '../../engine/painting'
import { FEWEST_POINTS, MOST_POINTS, moved, NEAR_AXIS, onAxis, pathOf, PICTURE, split, withPoint, without, type Point } from './shapes'
import { t } from '../../words'
import { useNudging } from '../controls/useNudging'

const props = defineProps<{ shapes: Shape[]; chosen: number; drawing: boolean }>()
const emit = defineEmits<{ turn: [shapes: Shape[]]; commit: []; choose: [shape: number]; drawn: [points: Point[] | null] }>()

/** What of the template is shown: it is empty above and below. */
const TOP = 0.075
const TALL = 0.915
const BOX = `0 ${TOP * TEMPLATE} ${TEMPLATE} ${TALL * TEMPLATE}`
/** Pixels of the template: half of a point's square, how far a first point is met, what an arrow key moves. */
const GRIP = 17
const MEET = 36
const STEP = 4
/** By which a hand may move and still have clicked. */
const STILL = 10
const sheet = ref<SVGSVGElement | null>(null)
const placed = shallowRef<Point[]>([])
const pointer = shallowRef<Point | null>(null)
/** `all`: the shapes as they were before; `moved`: whether anything changed, or a press chose only. */
let drag: { from: Point; before: Shape; point: number | null; all: Shape[]; moved: boolean } | null = null

const shape = computed(() => props.shapes[props.chosen])
const line = computed(() => [...placed.value, ...(pointer.value ? [pointer.value] : [])].map(([u, v]) => `${u * TEMPLATE},${v * TEMPLATE}`).join(' '))
const fill = (one: Shape): string => (one.fill === PICTURE ? 'url(#shows)' : one.fill)

function place(event: MouseEvent): Point {
  const box = (sheet.value as SVGSVGElement).getBoundingClientRect()
  return [(event.clientX - box.left) / box.width, TOP + ((event.clientY - box.top) / box.height) * TALL]
}
function put(changed: Shape): void {
  emit('turn', props.shapes.map((one, n) => (n === props.chosen ? changed : one))) // prettier-ignore
}

function press(event: PointerEvent, number: number, point: number | null = null): void {
  if (event.button !== 0 || props.drawing) return
  event.stopPropagation()
  emit('choose', number)
  sheet.value?.setPointerCapture(event.pointerId)
  drag = { from: place(event), before: props.shapes[number] as Shape, point, all: props.shapes, moved: false }
}
/** A press on the line puts a point there, which is dragged on at once. */
function pressLine(event: PointerEvent): void {
  const one = shape.value
  if (!one || event.button !== 0 || props.drawing || one.points.length >= MOST_POINTS) return
  event.stopPropagation()
  const [changed, point] = split(one, place(event))
  sheet.value?.setPointerCapture(event.pointerId)
  drag = { from: place(event), before: changed, point, all: props.shapes, moved: true }
  put(changed)
}
function follow(event: PointerEvent): void {
  if (props.drawing) pointer.value = onAxis(place(event), true)
  if (!drag) return
  const [u, v] = place(event)
  if (!drag.moved && Math.hypot(u - drag.from[0], v - drag.from[1]) * TEMPLATE < STILL) return
  drag.moved = true
  if (drag.point !== null) put(withPoint(drag.before, drag.point, [u, v]))
  else put(moved(drag.before, [u - drag.from[0], v - drag.from[1]]))
}
function release(): void {
  const changed = drag?.moved
  drag = null
  if (changed) emit('commit')
}
/** As it was before it was grasped. */
function letGo(): void {
  if (drag?.moved) emit('turn', drag.all)
  drag = null
}

function click(event: MouseEvent): void {
  if (!props.drawing) return
  const at = onAxis(place(event), true)
  const [first] = placed.value
  if (first && placed.value.length >= FEWEST_POINTS && Math.hypot(at[0] - first[0], at[1] - first[1]) * TEMPLATE < MEET) return end()
  placed.value = [...placed.value, at]
  if (placed.value.length >= MOST_POINTS) end()
}
function end(keep = true): void {
  const points = placed.value
  placed.value = []
  pointer.value = null
  emit('drawn', keep && points.length >= FEWEST_POINTS ? points : null)
}

function take(number: number): void {
  if (!shape.value || shape.value.points.length <= FEWEST_POINTS) return
  put(without(shape.value, number))
  emit('commit')
}
function key(event: KeyboardEvent, number: number): void {
  const way = ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] } as Record<string, Point>)[event.key]
  const one = shape.value
  const at = one?.points[number]
  if (way && one && at) {
    const far = (STEP * (event.shiftKey ? 10 : 1)) / TEMPLATE
    const to: Point = [at[0] + way[0] * far, at[1] + way[1] * far]
    // A key leaves the axis, where a hand is held to it.
    put(one.mirrored && at[0] === 0.5 && way[0] ? { ...one, points: one.points.map((p, n): Point => (n === number ? [to[0] + way[0] * (NEAR_AXIS / TEMPLATE), to[1]] : p)) } : withPoint(one, number, to))
  } else if (event.key === 'Delete' || event.key === 'Backspace') take(number)
  else return
  event.preventDefault()
  event.stopPropagation()
}
const nudging = useNudging(() => emit('commit'))

function drawingKey(event: KeyboardEvent): void {
  if (drag && event.key === 'Escape') letGo()
  else if (!props.drawing) return
  else if (event.key === 'Enter') end()
  else if (event.key === 'Escape') end(false)
  else if (event.key === 'Backspace') placed.value = placed.value.slice(0, -1)
  else return
  event.preventDefault()
  event.stopPropagation()
}
// Given up from elsewhere, it does not go on with the next shape.
watch(() => props.drawing, (now) => !now && ((placed.value = []), (pointer.value = null))) // prettier-ignore
onMounted(() => window.addEventListener('keydown', drawingKey, true))
onBeforeUnmount(() => window.removeEventListener('keydown', drawingKey, true))
</script>

<template>
  <svg
    ref="sheet" class="face" :class="{ drawing }" :viewBox="BOX" role="group" :aria-label="t('paint.theFlatFace')" @pointermove="follow" @pointerup="release" @pointercancel="letGo"
    @pointerleave="pointer = null" @click="click">
    <defs>
      <pattern id="shows" width="48" height="48" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="48" height="48" fill="#faf8f3" /><rect width="24" height="48" fill="#b9b1a0" />
      </pattern>
    </defs>
    <line class="axis" :x1="TEMPLATE / 2" :x2="TEMPLATE / 2" y1="0" :y2="TEMPLATE" />
    <g v-for="(one, n) in shapes" :key="n" :style="{ opacity: one.opacity }">
      <path v-if="one.mirrored" class="other" :d="pathOf(one)" :fill="fill(one)" :transform="`matrix(-1 0 0 1 ${TEMPLATE} 0)`" />
      <path class="filled" :d="pathOf(one)" :fill="fill(one)" :stroke="one.grown ? fill(one) : 'none'" :stroke-width="2 * one.grown" @pointerdown="press($event, n)" />
    </g>
    <image class="guides" href="/api/templates/face.svg" :width="TEMPLATE" :height="TEMPLATE" />
    <template v-if="shape && !drawing">
      <path class="line dark" :d="pathOf(shape)" />
      <path class="line light" :d="pathOf(shape)" />
      <path class="reach" :d="pathOf(shape)" @pointerdown="pressLine"><title>{{ t('paint.pressForAPoint') }}</title></path>
      <rect
        v-for="([u, v], n) in shape.points" :key="n" class="grip" :x="u * TEMPLATE - GRIP" :y="v * TEMPLATE - GRIP" :width="2 * GRIP" :height="2 * GRIP" tabindex="0"
        role="button" :aria-label="t('paint.point', { n: n + 1, u: Math.round(u * 100), v: Math.round(v * 100) })" @pointerdown="press($event, chosen, n)" @dblclick="take(n)"
        @keydown="nudging.down($event), key($event, n)" @keyup="nudging.up" @blur="nudging.end" />
    </template>
    <template v-if="drawing">
      <polyline class="line dark" :points="line" /><polyline class="line light" :points="line" />
      <rect v-for="([u, v], n) in placed" :key="n" class="grip" :class="{ first: n === 0 }" :x="u * TEMPLATE - GRIP" :y="v * TEMPLATE - GRIP" :width="2 * GRIP" :height="2 * GRIP" />
    </template>
  </svg>
</template>

<style scoped>
.face {
  display: block;
  width: 100%;
  background: #e8e3d6;
  touch-action: none;
  user-select: none;
}
.drawing {
  cursor: crosshair;
}
.drawing * {
  pointer-events: none;
}
.axis {
  stroke: #9a927f;
  stroke-width: 5;
  stroke-dasharray: 2 14;
  stroke-linecap: round;
}
.other {
  opacity: 0.45;
  pointer-events: none;
}
.filled {
  cursor: move;
  stroke-linejoin: round;
}
.guides {
  pointer-events: none;
  opacity: 0.55;
}
.line {
  fill: none;
  pointer-events: none;
}
.line.dark {
  stroke: #23211d;
  stroke-width: 9;
}
.line.light {
  stroke: #fff;
  stroke-width: 4;
}
.reach {
  fill: none;
  stroke: transparent;
  stroke-width: 44;
  pointer-events: stroke;
  cursor: copy;
}
.grip {
  fill: #fff;
  stroke: #23211d;
  stroke-width: 6;
  cursor: move;
}
.grip:focus-visible {
  outline: none;
  stroke: var(--glaze);
  stroke-width: 10;
}
.grip.first {
  fill: var(--ink);
}
</style>
