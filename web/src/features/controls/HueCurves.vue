<!-- What becomes of each hue, drawn: curves round the circle over the hues that the picture has now, with the ten skin tones marked. A
click adds a point, drag moves it, with Shift a narrow part alone; a double click or Delete takes it away. -->
<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Plain } from '../../api/types'
import { hsl, smoothly, type RoundPoint } from '../../document/curves'
import { usePicker } from '../picture/usePicker'
import { t } from '../../words'
import { useNudging } from './useNudging'

type Name = 'turn' | 'saturation' | 'lightness' | 'over'
interface Curve {
  name: Name
  title: string
  most: number
  shown: number
  unit: string
  length: number
}
const SATURATION: Curve = { name: 'saturation', title: t('controls.saturation'), most: 1, shown: 100, unit: '%', length: 360 }
const CURVES: Curve[] = [
  { name: 'turn', title: t('controls.turn'), most: 60, shown: 1, unit: '°', length: 360 },
  SATURATION,
  { name: 'lightness', title: t('controls.lightness'), most: 1, shown: 100, unit: '%', length: 360 },
  { name: 'over', title: t('controls.saturationByLightness'), most: 1, shown: 100, unit: '%', length: 1 },
]
const WIDE = 400
const HIGH = 150
const BINS = 72
const MOST = 16
/** Degrees (or as much of a lightness) within which a picked colour finds a point that is there, and beyond which Shift holds all still. */
const CLOSE = 8 / 360
const NARROW = 18 / 360
const LOOK_MS = 700

const props = defineProps<{
  name: string
  value: Plain
  /** Skin tones as #rrggbb. */
  tones: string[]
  /** The picture below the layer, small. */
  under: () => HTMLCanvasElement | null
}>()
const emit = defineEmits<{ turn: [value: Plain]; commit: [] }>()
const nudging = useNudging(() => emit('commit'))

const which = ref<Name>('saturation')
const chosen = ref(-1)
const sheet = ref<SVGSVGElement | null>(null)
const bins = ref<number[]>([])
const { pick, picking } = usePicker()
const copy = document.createElement('canvas')
let held = false

const curves = computed(() => (props.value ?? {}) as Partial<Record<Name, RoundPoint[]>>)
const points = computed(() => curves.value[which.value] ?? [])
/** The curve that is shown; one that goes farther than usual is shown whole. */
const kind = computed(() => {
  const found = CURVES.find((one) => one.name === which.value) ?? SATURATION
  return { ...found, most: Math.max(found.most, ...points.value.map(([, y]) => Math.abs(y))) }
})
const closed = computed(() => which.value !== 'over')
const height = computed(() => smoothly(points.value, kind.value.length, closed.value))
const across = (place: number): number => (place / kind.value.length) * WIDE
const up = (at: number): number => (0.5 - at / kind.value.most / 2) * HIGH
const line = computed(() => Array.from({ length: 121 }, (_, n) => (n / 120) * kind.value.length).map((x) => `${across(x).toFixed(1)},${up(height.value(x)).toFixed(1)}`).join(' '))
const most = computed(() => Math.max(1e-6, ...bins.value))
const hills = computed(() => `M0 ${HIGH}${bins.value.map((much, n) => `L${((n + 0.5) / BINS) * WIDE} ${HIGH - (much / most.value) * HIGH * 0.62}`).join('')}L${WIDE} ${HIGH}Z`)
const marks = computed(() => props.tones.map((tone) => ({ tone, x: across(placeOf(tone)) })))
const shown = (n: number): string => `${Math.round((points.value[n]?.[1] ?? 0) * kind.value.shown)} ${kind.value.unit}`
const where = (n: number): string => (closed.value ? `${Math.round(points.value[n]?.[0] ?? 0)}°` : `${Math.round((points.value[n]?.[0] ?? 0) * 100)} %`)

/** Where a colour lies on the curve that is shown: its hue, or its lightness. */
function placeOf(colour: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((n) => parseInt(colour.slice(n, n + 2), 16))
  const [hue, , light] = hsl(r, g, b)
  return closed.value ? hue : light
}

/** The hues (or lightness) of the picture as it is now: how much of each, the coloured more than the grey. */
function look(): void {
  const canvas = props.under()
  const context = copy.getContext('2d', { alpha: false, willReadFrequently: true })
  if (!canvas?.width || !context) return
  if (copy.width !== canvas.width || copy.height !== canvas.height) Object.assign(copy, { width: canvas.width, height: canvas.height })
  context.drawImage(canvas, 0, 0)
  const { data } = context.getImageData(0, 0, copy.width, copy.height)
  const found = Array.from({ length: BINS }, () => 0)
  for (let n = 0; n < data.length; n += 12) {
    const [r = 0, g = 0, b = 0] = [data[n], data[n + 1], data[n + 2]]
    const [hue, , light] = hsl(r, g, b)
    const bin = Math.min(BINS - 1, Math.floor((closed.value ? hue / 360 : light) * BINS))
    found[bin] = (found[bin] ?? 0) + (closed.value ? Math.max(r, g, b) - Math.min(r, g, b) : 1)
  }
  const near = (n: number): number => found[closed.value ? (n + BINS) % BINS : Math.min(BINS - 1, Math.max(0, n))] ?? 0
  bins.value = found.map((much, n) => Math.sqrt((near(n - 1) + 2 * much + near(n + 1)) / 4))
}

function put(fresh: RoundPoint[]): void {
  const rest = Object.fromEntries(Object.entries(curves.value).filter(([name]) => name !== which.value))
  emit('turn', fresh.length ? { ...rest, [which.value]: fresh } : rest)
}

const held01 = (n: number): number => Math.min(1, Math.max(0, n))
function place(event: PointerEvent): [number, number] {
  const box = sheet.value?.getBoundingClientRect()
  if (!box) return [0, 0]
  return [held01((event.clientX - box.left) / box.width) * kind.value.length, (0.5 - held01((event.clientY - box.top) / box.height)) * 2 * kind.value.most]
}

/** A point stays between its neighbours; those at the ends, within the circle. */
function moveTo(n: number, [x, y]: [number, number]): void {
  const { length, most: far } = kind.value
  const gap = length / 120
  const low = n > 0 ? (points.value[n - 1]?.[0] ?? 0) + gap : 0
  const high = n < points.value.length - 1 ? (points.value[n + 1]?.[0] ?? length) - gap : closed.value ? length - gap / 10 : length
  const digits = closed.value ? 1 : 3
  const fine = [Number(Math.min(high, Math.max(low, x)).toFixed(digits)), Number(Math.min(far, Math.max(-far, y)).toFixed(which.value === 'turn' ? 1 : 3))]
  put(points.value.map((point, m) => (m === n ? ([fine[0], fine[1], ...point.slice(2)] as RoundPoint) : point)))
}

function insert(fresh: RoundPoint[]): RoundPoint[] {
  return [...points.value, ...fresh].sort((a, b) => a[0] - b[0])
}

/** Points to either side that hold the curve where it is. */
function pins(at: number): RoundPoint[] {
  const { length } = kind.value
  const sides = [-NARROW, NARROW].map((way) => (closed.value ? (at + way * length + length) % length : at + way * length))
  const free = sides.filter((x) => x >= 0 && x <= length && points.value.every(([other]) => Math.abs(other - x) > length / 60))
  return points.value.length + free.length < MOST ? free.map((x): RoundPoint => [Number(x.toFixed(3)), Number(height.value(x).toFixed(4))]) : []
}

function grab(event: PointerEvent, n: number): void {
  if (event.button !== 0) return
  const at = points.value[n]?.[0] ?? 0
  const all = insert(event.shiftKey ? pins(at) : [])
  if (event.shiftKey) put(all)
  held = true
  sheet.value?.setPointerCapture(event.pointerId)
  chosen.value = all.findIndex(([x]) => x === at)
}

function add(event: PointerEvent): void {
  if (event.button !== 0 || points.value.length >= MOST) return
  const [x, y] = place(event)
  const { length } = kind.value
  if (points.value.some(([other]) => Math.abs(other - x) < length / 60)) return
  const fresh: RoundPoint = [Number(x.toFixed(3)), Number(y.toFixed(3))]
  const all = insert([...(event.shiftKey ? pins(x) : []), fresh])
  put(all)
  held = true
  sheet.value?.setPointerCapture(event.pointerId)
  chosen.value = all.indexOf(fresh)
}

function follow(event: PointerEvent): void {
  if (held && chosen.value >= 0) moveTo(chosen.value, place(event))
}

function release(): void {
  if (!held) return
  held = false
  emit('commit')
}

function remove(n: number): void {
  put(points.value.filter((_, m) => m !== n))
  chosen.value = -1
  emit('commit')
}

/** A point at a place, where the curve is; the one that is there already, if it is close. */
function reach(at: number): void {
  const { length } = kind.value
  const miss = (x: number): number => (closed.value ? Math.min(Math.abs(x - at), length - Math.abs(x - at)) : Math.abs(x - at))
  const close = points.value.findIndex(([x]) => miss(x) < CLOSE * length)
  if (close < 0 && points.value.length < MOST) {
    const x = Number(Math.min(at, closed.value ? length - 0.01 : length).toFixed(3))
    const fresh: RoundPoint = [x, Number(height.value(at).toFixed(4))]
    const all = insert([fresh])
    put(all)
    emit('commit')
    chosen.value = all.indexOf(fresh)
  } else chosen.value = close
  void nextTick(() => sheet.value?.querySelectorAll<SVGElement>('circle.point')[chosen.value]?.focus())
}

async function fromPicture(): Promise<void> {
  const colour = await pick()
  if (colour) reach(placeOf(colour))
}

/** In the middle of the widest gap, for hands that have keys alone. */
function another(): void {
  const { length } = kind.value
  const places = points.value.map(([x]) => x)
  const first = places[0]
  if (first === undefined) return reach(length / 12)
  const gaps = places.map((x, n) => [x, places[n + 1] ?? (closed.value ? first + length : length)] as const)
  const widest = gaps.reduce((a, b) => (b[1] - b[0] > a[1] - a[0] ? b : a))
  reach(((widest[0] + widest[1]) / 2) % length)
}

function key(event: KeyboardEvent, n: number): void {
  const point = points.value[n]
  if (!point) return
  const { length, most: far } = kind.value
  const by = event.shiftKey ? 10 : 1
  const ways: Record<string, [number, number]> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }
  const way = ways[event.key]
  chosen.value = n
  if (way) moveTo(n, [point[0] + (way[0] * length) / 360, point[1] + (way[1] * far) / 60])
  else if (event.key === 'Delete' || event.key === 'Backspace') remove(n)
  else return
  event.preventDefault()
  event.stopPropagation()
}

function flat(): void {
  put([])
  chosen.value = -1
  emit('commit')
}

let timer = 0
onMounted(() => {
  look()
  timer = window.setInterval(look, LOOK_MS)
})
onBeforeUnmount(() => window.clearInterval(timer))
</script>

<template>
  <section class="hue-curves drawn" :data-control="name">
    <header>
      <h3>{{ name }}</h3>
      <span class="ways" role="radiogroup" :aria-label="t('controls.whichOfThe', { name: name.toLowerCase() })">
        <button v-for="one in CURVES" :key="one.name" role="radio" :aria-checked="one.name === which" class="way" @click="((which = one.name), (chosen = -1), look())">
          {{ one.title }}
        </button>
      </span>
    </header>
    <svg
      ref="sheet" :viewBox="`0 0 ${WIDE} ${HIGH}`" class="sheet" preserveAspectRatio="none" @pointerdown="add" @pointermove="follow" @pointerup="release"
      @pointercancel="release">
      <path class="hills" :d="hills" />
      <path :d="`M0 ${HIGH / 2}H${WIDE}`" class="level" />
      <polyline :points="line" />
      <circle
        v-for="(point, n) in points" :key="n" class="point" :class="{ chosen: n === chosen }" :cx="across(point[0])" :cy="up(point[1])" r="5" tabindex="0" role="slider"
        :aria-label="t('controls.at', { title: kind.title, where: where(n) })" :aria-valuemin="-kind.most * kind.shown" :aria-valuemax="kind.most * kind.shown"
        :aria-valuenow="Math.round(point[1] * kind.shown)" :aria-valuetext="shown(n)" @pointerdown.stop="grab($event, n)" @dblclick.stop="remove(n)"
        @focus="chosen = n" @keydown="nudging.down($event), key($event, n)" @keyup="nudging.up" @blur="nudging.end" />
    </svg>
    <div class="strip" :class="{ light: !closed }" role="img" :aria-label="closed ? t('controls.huesAndWhereTenSkinTones') : t('controls.fromDarkToLightAndWhere')">
      <i v-for="(mark, n) in marks" :key="n" class="tone" :style="{ left: `${(mark.x / WIDE) * 100}%`, background: mark.tone }" />
    </div>
    <footer>
      <button class="word" :aria-pressed="picking" @click="fromPicture">{{ t('controls.pickInThePicture') }}</button>
      <button class="word" @click="another">{{ t('controls.addAPoint') }}</button>
      <button class="word" :disabled="!points.length" @click="flat">{{ t('controls.level') }}</button>
      <span v-if="points[chosen]" class="figure">{{ where(chosen) }}: {{ shown(chosen) }}</span>
      <span v-else class="second">{{ t('controls.clickAddsShiftANarrowPart') }}</span>
    </footer>
  </section>
</template>

<style scoped>
.sheet {
  display: block;
  width: 100%;
  height: 150px;
  border: 1px solid var(--line);
  background: #fff;
  overflow: visible;
  touch-action: none;
  cursor: crosshair;
}
.hills {
  fill: #e4dfd2;
}
.level {
  stroke: #cfc8b8;
  stroke-width: 1;
  fill: none;
}
polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
  pointer-events: none;
}
.point {
  fill: #fff;
  stroke: var(--ink);
  stroke-width: 1.6;
  cursor: move;
}
.point.chosen {
  fill: var(--ink);
}
.point:focus-visible {
  outline: 2px solid var(--glaze);
  outline-offset: 1px;
}
.strip {
  position: relative;
  height: 14px;
  margin: 3px 1px 0;
  background: linear-gradient(90deg, #b8564e, #b3a04a 16.7%, #5d9a54 33.3%, #4a9896 50%, #5468b4 66.7%, #a4549c 83.3%, #b8564e);
}
.strip.light {
  background: linear-gradient(90deg, #000, #fff);
}
.tone {
  position: absolute;
  top: 2px;
  width: 10px;
  height: 10px;
  margin-left: -5px;
  border-radius: 50%;
  border: 1px solid #fff;
  outline: 1px solid rgb(0 0 0 / 45%);
}
footer {
  display: flex;
  gap: 16px;
  align-items: baseline;
  margin-top: 8px;
}
footer .figure,
.second {
  margin-left: auto;
  font-size: 12px;
}
.second {
  color: var(--second);
}
</style>
