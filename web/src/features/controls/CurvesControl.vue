<!-- Curves, drawn: click adds a point, drag moves it, a double click or Delete takes it away. Points are keyboard sliders, too. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Plain } from '../../api/types'
import { monotone, type Point } from '../../document/curves'
import { t } from '../../words'
import { useNudging } from './useNudging'

type Name = 'all' | 'red' | 'green' | 'blue'
const NAMES: Name[] = ['all', 'red', 'green', 'blue']
const INKS: Record<Name, string> = { all: '#23211d', red: '#a4342a', green: '#3f6b2a', blue: '#2f5b8c' }
const STRAIGHT: Point[] = [[0, 0], [1, 1]] // prettier-ignore
const MOST = 16
const SIDE = 200

const props = defineProps<{ name: string; value: Plain }>()
const emit = defineEmits<{ turn: [value: Plain]; commit: [] }>()
const nudging = useNudging(() => emit('commit'))

const which = ref<Name>('all')
const chosen = ref(0)
const sheet = ref<SVGSVGElement | null>(null)
let held = false

const curves = computed(() => (props.value ?? {}) as Partial<Record<Name, Point[]>>)
const points = computed(() => curves.value[which.value] ?? STRAIGHT)
const lines = computed(() =>
  NAMES.filter((name) => name === which.value || curves.value[name]).map((name) => {
    const at = monotone(curves.value[name] ?? STRAIGHT)
    const path = Array.from({ length: 101 }, (_, n) => `${(n / 100) * SIDE},${(1 - at(n / 100)) * SIDE}`).join(' ')
    return { name, path, ink: INKS[name] }
  }),
)

function put(fresh: Point[]): void {
  const straight = fresh.length === 2 && fresh.every(([x, y]) => x === y && (x === 0 || x === 1))
  const rest = Object.fromEntries(Object.entries(curves.value).filter(([name]) => name !== which.value))
  emit('turn', straight ? rest : { ...rest, [which.value]: fresh })
}

function place(event: PointerEvent): Point {
  const box = sheet.value?.getBoundingClientRect()
  if (!box) return [0, 0]
  const part = (n: number) => Number(Math.min(1, Math.max(0, n)).toFixed(4))
  return [part((event.clientX - box.left) / box.width), part(1 - (event.clientY - box.top) / box.height)]
}

/** A point stays between its neighbours; the first and last may move, too. */
function moveTo(n: number, [x, y]: Point): void {
  const low = (points.value[n - 1]?.[0] ?? -0.01) + 0.01
  const high = (points.value[n + 1]?.[0] ?? 1.01) - 0.01
  const fine: Point = [Number(Math.min(high, Math.max(low, x)).toFixed(4)), Math.min(1, Math.max(0, Number(y.toFixed(4))))]
  put(points.value.map((point, m) => (m === n ? fine : point)))
}

function grab(event: PointerEvent, n: number): void {
  chosen.value = n
  held = true
  sheet.value?.setPointerCapture(event.pointerId)
}

function add(event: PointerEvent): void {
  if (event.button !== 0 || points.value.length >= MOST) return
  const fresh = place(event)
  if (points.value.some(([x]) => Math.abs(x - fresh[0]) < 0.02)) return
  const sorted = [...points.value, fresh].sort((a, b) => a[0] - b[0])
  put(sorted)
  grab(event, sorted.indexOf(fresh))
}

function follow(event: PointerEvent): void {
  if (held) moveTo(chosen.value, place(event))
}

function release(): void {
  if (!held) return
  held = false
  emit('commit')
}

function remove(n: number): void {
  if (points.value.length <= 2) return
  put(points.value.filter((_, m) => m !== n))
  emit('commit')
}

function key(event: KeyboardEvent, n: number): void {
  const point = points.value[n]
  if (!point) return
  const by = event.shiftKey ? 0.1 : 0.01
  const step: Record<string, Point> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }
  const go = step[event.key]
  if (go) moveTo(n, [point[0] + go[0], point[1] + go[1]])
  else if (event.key === 'Delete' || event.key === 'Backspace') remove(n)
  else return
  event.preventDefault()
  event.stopPropagation()
}

function straighten(): void {
  put(STRAIGHT)
  emit('commit')
}
</script>

<template>
  <section class="curves drawn" :data-control="name">
    <header>
      <h3>{{ name }}</h3>
      <span class="ways" role="radiogroup" :aria-label="t('controls.whichOfThe', { name: name.toLowerCase() })">
        <button v-for="one in NAMES" :key="one" role="radio" :aria-checked="one === which" class="way" @click="which = one">
          {{ one.charAt(0).toUpperCase() + one.slice(1) }}
        </button>
      </span>
      <button class="word" @click="straighten">{{ t('controls.straight') }}</button>
    </header>
    <svg
      ref="sheet" :viewBox="`0 0 ${SIDE} ${SIDE}`" class="sheet" preserveAspectRatio="none" @pointerdown="add" @pointermove="follow"
      @pointerup="release" @pointercancel="release">
      <path d="M50 0V200M100 0V200M150 0V200M0 50H200M0 100H200M0 150H200" class="grid" />
      <line x1="0" :y1="SIDE" :x2="SIDE" y2="0" class="grid" />
      <polyline v-for="line in lines" :key="line.name" :points="line.path" :stroke="line.ink" :class="{ faint: line.name !== which }" />
      <circle
        v-for="([x, y], n) in points" :key="n" :cx="x * SIDE" :cy="(1 - y) * SIDE" r="5" :fill="INKS[which]" tabindex="0" role="slider"
        :aria-label="t('controls.pointOfTheCurveFor', { n: n + 1, which })" aria-valuemin="0" aria-valuemax="100" :aria-valuenow="Math.round(y * 100)"
        :aria-valuetext="t('controls.becomes', { x: Math.round(x * 100), y: Math.round(y * 100) })" @pointerdown.stop="grab($event, n)"
        @dblclick.stop="remove(n)" @keydown="nudging.down($event), key($event, n)" @keyup="nudging.up" @blur="nudging.end" />
    </svg>
  </section>
</template>

<style scoped>
.sheet {
  display: block;
  width: 100%;
  max-width: 300px;
  aspect-ratio: 1;
  border: 1px solid var(--line);
  background: #fff;
  overflow: visible;
  touch-action: none;
  cursor: crosshair;
}
.grid {
  stroke: #e9e4d8;
  stroke-width: 1;
  fill: none;
}
polyline {
  fill: none;
  stroke-width: 1.6;
  pointer-events: none;
}
.faint {
  opacity: 0.35;
}
circle {
  cursor: move;
}
circle:focus-visible {
  outline: 2px solid var(--glaze);
  outline-offset: 1px;
}
</style>
