<!-- Handles over the picture: thin, light on dark so that they show on any ground, drawn beside the canvas and never in it. -->
<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { dragged, grips, movedTo, nudged, pathOf, snapped, type Grip } from './dragging'
import type { Handle } from '../../api/types'
import { add, minus, times, type Placed, type Point } from './placing'
import { shapeOf, turnArc } from './drawing'
import type { Handles } from './useHandles'
import { t } from '../../words'
import { useNudging } from '../controls/useNudging'

const props = defineProps<{
  handles: Handles
  zoom: number
  pan: [number, number]
  /** Pixels of the picture's short side. */
  short: number
  /** Whether a click on the picture means something else just now. */
  away: boolean
}>()

/** CSS pixels within which what moves is drawn to a line, and by which a hand may move and still have clicked. */
const NEAR = 6
const STILL = 4
/** Points that a drawn path may have (core/material/path.py). */
const FEWEST_POINTS = 3
const MOST_POINTS = 24
const sheet = ref<SVGSVGElement | null>(null)
const size = ref<Point>([1, 1])
const guides = ref<{ across: number[]; down: number[] }>({ across: [], down: [] })
let held: { before: Placed; grip: Grip; from: Point; last: PointerEvent; moved: boolean } | null = null

const ground = computed(() => props.handles.ground.value)
/** CSS pixels of one short side. */
const unit = computed(() => (size.value[0] / ground.value[0]) * props.zoom)
const shift = computed<Point>(() => (props.zoom === 1 ? [0, 0] : [0, 1].map((k) => -(((props.pan[k] ?? 0.5) * props.zoom - 0.5) * (size.value[k] ?? 1))) as Point))
const project = (place: Point): Point => add(times(place, unit.value), shift.value)
const drawn = computed(() =>
  props.handles.shown.value.map((placed, n) => ({ placed, key: `${placed.handle.title}${n}`, path: shapeOf(placed, ground.value, project), arc: turnArc(placed, ground.value, project), grips: grips(placed, ground.value) })),
)
const lines = computed(() => [
  ...guides.value.across.map((x) => [project([x, 0]), project([x, ground.value[1]])]),
  ...guides.value.down.map((y) => [project([0, y]), project([ground.value[0], y])]),
])

function place(event: PointerEvent | MouseEvent): Point {
  const box = sheet.value?.getBoundingClientRect()
  const [x, y] = [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)]
  return times(minus([x, y], shift.value), 1 / unit.value)
}

function grab(event: PointerEvent, placed: Placed, grip: Grip): void {
  if (event.button !== 0) return
  sheet.value?.setPointerCapture(event.pointerId)
  held = { before: placed, grip, from: place(event), last: event, moved: false }
  props.handles.begin()
}

/** A click on the line of a path puts a point there, which is dragged on at once. */
function put(event: PointerEvent, placed: Placed): void {
  const at = place(event)
  if (placed.handle.kind !== 'path') return grab(event, placed, grips(placed, ground.value)[0] as Grip)
  if (event.button !== 0 || placed.points.length >= MOST_POINTS) return
  const points = placed.points
  const miss = points.map((point, n) => detour(point, points[(n + 1) % points.length] ?? point, at))
  const after = miss.indexOf(Math.min(...miss)) + 1
  const fresh = [...points.slice(0, after), at, ...points.slice(after)]
  props.handles.begin()
  props.handles.set(placed.handle, { path: pathOf(placed, fresh, ground.value) })
  const before = { ...placed, points: fresh }
  sheet.value?.setPointerCapture(event.pointerId)
  held = { before, grip: { id: '', act: 'point', at, sides: [0, 0], number: after, title: '' }, from: at, last: event, moved: true }
}
const detour = (a: Point, b: Point, by: Point): number => Math.hypot(...minus(a, by)) + Math.hypot(...minus(b, by)) - Math.hypot(...minus(a, b))

function follow(event: PointerEvent): void {
  if (!held) return
  const { before, grip, from } = held
  const far = Math.hypot(event.clientX - held.last.clientX, event.clientY - held.last.clientY)
  if (!held.moved && far < STILL) return
  held.moved = true
  const to = place(event)
  guides.value = { across: [], down: [] }
  if (grip.act === 'move' && !event.altKey) {
    const by = minus(to, from)
    const axis: Point = event.shiftKey ? (Math.abs(by[0]) > Math.abs(by[1]) ? [by[0], 0] : [0, by[1]]) : by
    const found = snapped(before, add(before.centre, axis), ground.value, NEAR / unit.value)
    guides.value = found
    props.handles.set(before.handle, movedTo(before, found.to, ground.value))
  } else props.handles.set(before.handle, dragged(before, grip, { from, to, held: event.shiftKey }, ground.value))
}

function release(event: PointerEvent): void {
  if (!held) return
  const { before, moved } = held
  held = null
  guides.value = { across: [], down: [] }
  props.handles.finish(before.handle)
  const [x, y] = place(event)
  if (!moved) props.handles.openAt([x / ground.value[0], y / ground.value[1]])
}

function drop(): void {
  if (!held) return
  held = null
  guides.value = { across: [], down: [] }
  props.handles.cancel()
}

function key(event: KeyboardEvent, placed: Placed, grip: Grip): void {
  const ways: Record<string, Point> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
  const way = ways[event.key]
  if (way) {
    byKeys = placed.handle
    nudging.down(event)
    props.handles.begin(true)
    props.handles.set(placed.handle, nudged(placed, grip, way, 1 / props.short, event.shiftKey, ground.value))
  } else if ((event.key === 'Delete' || event.key === 'Backspace') && grip.act === 'point') remove(placed, grip)
  else return
  event.preventDefault()
  event.stopPropagation()
}
let byKeys: Handle | null = null
const nudging = useNudging(() => byKeys && props.handles.finish(byKeys))

function remove(placed: Placed, grip: Grip): void {
  if (grip.act !== 'point' || placed.points.length <= FEWEST_POINTS) return
  props.handles.begin()
  props.handles.set(placed.handle, { path: pathOf(placed, placed.points.filter((_, n) => n !== grip.number), ground.value) }) // prettier-ignore
  props.handles.finish(placed.handle)
}

/** The whole of it can be grasped as long as the picture itself is not to be dragged. */
const solid = (placed: Placed): boolean => props.zoom === 1 && ['box', 'circle', 'quad', 'path'].includes(placed.handle.kind)
const round = (grip: Grip): boolean => grip.act === 'turn' || grip.act === 'point'
/** One of several alike is enough for the keyboard. */
const stop = (grip: Grip, all: Grip[]): 0 | -1 => (all.find((one) => one.act === grip.act && one.title === grip.title) === grip ? 0 : -1)
function says(placed: Placed, grip: Grip): string {
  const [x, y] = grip.at.map((n, k) => Math.round((n / (ground.value[k] ?? 1)) * 100))
  const where = grip.act === 'turn' ? `${Math.round(placed.turn)}°` : t('handles.acrossDown', { x, y })
  return t('handles.arrowKeysMoveIt', { title: placed.handle.title, title2: grip.title, where, which: grip.act === 'point' ? t('handles.deleteTakesItAway') : '' })
}

function escape(event: KeyboardEvent): void {
  if (event.key !== 'Escape' || !held) return
  event.stopPropagation()
  drop()
}
const observer = new ResizeObserver(([entry]) => entry && (size.value = [entry.contentRect.width, entry.contentRect.height]))
onMounted(() => {
  if (sheet.value?.parentElement) observer.observe(sheet.value.parentElement)
  window.addEventListener('keydown', escape, true)
})
onBeforeUnmount(() => {
  observer.disconnect()
  window.removeEventListener('keydown', escape, true)
  drop()
})
</script>

<template>
  <svg
    ref="sheet" class="handles" :class="{ away }" :width="size[0]" :height="size[1]" role="group" :aria-label="t('handles.handles')" @pointermove="follow" @pointerup="release"
    @pointercancel="drop">
    <path v-for="([a, b], n) in lines" :key="n" class="guide" :d="`M${a}L${b}`" />
    <g v-for="one in drawn" :key="one.key" :data-handle="one.placed.handle.title">
      <path class="dark" :d="one.path + one.arc" />
      <path class="light" :d="one.path + one.arc" />
      <path v-if="solid(one.placed)" class="body" :d="one.path" @pointerdown.stop="grab($event, one.placed, one.grips[0]!)" />
      <path class="edge" :d="one.path" @pointerdown.stop="put($event, one.placed)" />
      <g
        v-for="grip in one.grips" :key="grip.id" class="grip" :data-grip="grip.id" :data-act="grip.act" role="button" :tabindex="stop(grip, one.grips)" :aria-roledescription="t('handles.handle')"
        :aria-label="says(one.placed, grip)" :transform="`translate(${project(grip.at)})`" @pointerdown.stop="grab($event, one.placed, grip)"
        @dblclick.stop="remove(one.placed, grip)" @keydown="key($event, one.placed, grip)" @keyup="nudging.up" @blur="nudging.end">
        <circle class="room" r="12" />
        <path v-if="grip.act === 'move'" class="dark" d="M-6 0H6M0 -6V6" />
        <path v-if="grip.act === 'move'" class="light" d="M-6 0H6M0 -6V6" />
        <circle v-else-if="round(grip)" class="dot" r="4.5" />
        <rect v-else class="dot" x="-4" y="-4" width="8" height="8" :transform="`rotate(${one.placed.turn})`" />
      </g>
    </g>
  </svg>
</template>

<style scoped>
.handles {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
  touch-action: none;
}
path {
  fill: none;
}
.dark {
  stroke: rgb(0 0 0 / 62%);
  stroke-width: 3;
}
.light {
  stroke: #fff;
  stroke-width: 1.2;
}
.guide {
  stroke: #fff;
  stroke-width: 1;
  stroke-dasharray: 2 4;
  filter: drop-shadow(0 0 1px #000);
}
.body,
.edge,
.grip {
  pointer-events: all;
  cursor: move;
  touch-action: none;
}
.edge {
  pointer-events: stroke;
  stroke: transparent;
  stroke-width: 14;
}
.away .body,
.away .edge,
.away .grip {
  pointer-events: none;
}
.grip {
  outline: none;
}
.grip[data-act='turn'] {
  cursor: grab;
}
.room {
  fill: transparent;
}
.dot {
  fill: #fff;
  stroke: rgb(0 0 0 / 75%);
  stroke-width: 1.2;
}
.grip:focus-visible .room {
  stroke: #fff;
  stroke-width: 2;
  filter: drop-shadow(0 0 1px #000);
}
</style>
