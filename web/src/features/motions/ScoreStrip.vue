<!-- The score: what the effect listens to over the last ten seconds, the thresholds on it, which can be dragged, and the cues where they fired. -->
<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Cue, Plain } from '../../api/types'
import { SECONDS, type Score } from './useScore'
import type { Trying } from './useTrying'
import { t } from '../../words'
import { useNudging } from '../controls/useNudging'

const props = defineProps<{ score: Score; trying: Trying; cues: Cue[] }>()
const emit = defineEmits<{ turn: [cue: string, value: Plain]; commit: [cue: string] }>()
let nudged = ''
const nudging = useNudging(() => emit('commit', nudged))

const LANE = 40
const MARKS = 20
const MOST_LANES = 4
const RATE = 30
const INK = { back: '#242424', line: '#e6e1d4', faint: '#8d8a82', bright: '#ff9a5c' }
const canvas = ref<HTMLCanvasElement | null>(null)
const { rehearsing, recording, trying, kept } = props.trying
const lines = computed(() => props.score.described.value?.lines.slice(0, MOST_LANES) ?? [])
const cues = computed(() => props.score.described.value?.cues ?? [])
const height = computed(() => lines.value.length * LANE + MARKS)
const MOST_TIMES = 1

/** How far up in its lane a value is, 0 to 1. */
const share = (n: number, value: number) => {
  const line = lines.value[n]
  return line ? Math.min(1, Math.max(0, (value - line.low) / (line.high - line.low))) : 0
}
const PAD = 5
const top = (n: number, value: number) => n * LANE + PAD + (1 - share(n, value)) * (LANE - 2 * PAD)
const threshold = (cue: string) => Number(props.cues.find((one) => one.id === cue)?.values.threshold ?? NaN)
const rules = computed(() =>
  lines.value.flatMap((line, n) => {
    const value = line.cue ? threshold(line.cue) : NaN
    return line.cue && Number.isFinite(value) ? [{ n, line, cue: line.cue, value, top: top(n, value) }] : []
  }),
)

function draw(): void {
  const target = canvas.value
  const context = target?.getContext('2d')
  if (!target || !context) return
  const [width, scale] = [target.clientWidth, window.devicePixelRatio]
  if (target.width !== Math.round(width * scale) || target.height !== Math.round(height.value * scale)) Object.assign(target, { width: Math.round(width * scale), height: Math.round(height.value * scale) })
  context.setTransform(scale, 0, 0, scale, 0, 0)
  context.fillStyle = INK.back
  context.fillRect(0, 0, width, height.value)
  const { history } = props.score
  const newest = history.at(-1)?.frame ?? 0
  const x = (frame: number) => width - 8 - ((newest - frame) / (SECONDS * RATE)) * (width - 8)
  const first = props.score.described.value?.lines.length ?? 0
  context.lineWidth = 1
  cues.value.forEach((cue, n) => {
    const lane = lines.value.findIndex((line) => line.cue === cue.id)
    context.strokeStyle = context.fillStyle = lane >= 0 ? INK.bright : INK.line
    let before = history[0]?.values[first + 2 * n + 1] ?? 0
    for (const { frame, values } of history) {
      const times = values[first + 2 * n + 1] ?? 0
      if (times - before >= MOST_TIMES) {
        if (lane >= 0) {
          context.setLineDash([2, 3])
          context.beginPath()
          context.moveTo(x(frame), lane * LANE + 2)
          context.lineTo(x(frame), (lane + 1) * LANE - 2)
          context.stroke()
          context.setLineDash([])
        } else {
          context.beginPath()
          context.arc(x(frame), height.value - MARKS / 2, 4, 0, 7)
          context.fill()
        }
      }
      before = times
    }
  })
  lines.value.forEach((_, n) => {
    context.strokeStyle = INK.line
    context.lineWidth = 1.5
    context.beginPath()
    history.forEach(({ frame, values }, k) => context[k ? 'lineTo' : 'moveTo'](x(frame), top(n, values[n] ?? 0)))
    context.stroke()
    context.fillStyle = INK.faint
    if (n) context.fillRect(0, n * LANE, width, 0.5)
  })
}

let drawn = 0
const again = () => {
  if (!drawn) drawn = requestAnimationFrame(() => ((drawn = 0), draw()))
}
let end: () => void
onMounted(() => ((end = props.score.onChange(again)), again()))
onBeforeUnmount(() => (end(), cancelAnimationFrame(drawn)))

let grabbed: { n: number; cue: string; from: number } | null = null
function grab(rule: { n: number; cue: string; value: number }, event: PointerEvent): void {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  grabbed = { n: rule.n, cue: rule.cue, from: rule.value }
}
function drag(event: PointerEvent): void {
  const line = grabbed && lines.value[grabbed.n]
  const box = canvas.value?.getBoundingClientRect()
  if (!grabbed || !line || !box) return
  const part = 1 - (event.clientY - box.top - grabbed.n * LANE - PAD) / (LANE - 2 * PAD)
  put(grabbed.cue, line, part)
}
function put(cue: string, line: { low: number; high: number }, part: number): void {
  emit('turn', cue, Number((line.low + Math.min(1, Math.max(0, part)) * (line.high - line.low)).toFixed(3)))
}
function release(): void {
  if (grabbed && threshold(grabbed.cue) !== grabbed.from) emit('commit', grabbed.cue)
  grabbed = null
}
function key(rule: { n: number; cue: string; value: number }, event: KeyboardEvent): void {
  const way = { ArrowUp: 1, ArrowDown: -1 }[event.key]
  const line = lines.value[rule.n]
  if (!way || !line) return
  event.preventDefault()
  put(rule.cue, line, share(rule.n, rule.value) + way * (event.shiftKey ? 0.1 : 0.01))
}
const times = (id: string) => props.score.counts.get(id) ?? 0
const hasLine = (id: string) => lines.value.some((line) => line.cue === id)
const seconds = computed(() => ((kept.value?.frames ?? 0) / RATE).toFixed(1))
</script>

<template>
  <section class="score" :aria-label="t('motions.score')">
    <div class="strip" :style="{ height: `${height}px` }">
      <canvas ref="canvas" role="img" :aria-label="t('motions.theLastTenSeconds')" />
      <span v-for="(line, n) in lines" :key="n" class="name figure" :style="{ top: `${n * LANE + 3}px` }">{{ line.title }}</span>
      <div
        v-for="rule in rules" :key="rule.cue" class="rule" role="slider" tabindex="0" :style="{ top: `${rule.top - 8}px` }" :aria-label="t('motions.thresholdOf', { title: rule.line.title })"
        :aria-valuemin="rule.line.low" :aria-valuemax="rule.line.high" :aria-valuenow="rule.value" :title="t('motions.dragTheThreshold', { value: rule.value })"
        @pointerdown="grab(rule, $event)" @pointermove="drag" @pointerup="release" @pointercancel="release" @keydown="(nudged = rule.cue), nudging.down($event), key(rule, $event)" @keyup="nudging.up" @blur="nudging.end" />
    </div>
    <div class="legend">
      <span class="ago">{{ t('motions.lastTenSeconds') }}</span>
      <button
        v-for="cue in cues" :key="cue.id" class="cue" :class="{ bright: hasLine(cue.id) }" :title="t('motions.giveItByHand', { name: cue.name })" @click="props.trying.done({ cue: cue.id })">
        <i aria-hidden="true" />{{ cue.name }} <span class="figure">{{ times(cue.id) }}</span>
      </button>
      <span class="gap" />
      <button class="word" :aria-pressed="trying" :title="t('motions.tryAsTheWearer')" @click="props.trying.toggle">{{ t('motions.tryIt') }}</button>
      <button v-if="recording" class="word" @click="props.trying.keep()">{{ t('motions.keepIt') }}</button>
      <button v-else class="word" :title="t('motions.recordWhatYouDo')" @click="props.trying.record()">{{ t('motions.rehearse') }}</button>
      <button v-if="kept && !recording" class="word" :aria-pressed="rehearsing" :title="t('motions.playWhatWasKept', { seconds })" @click="props.trying.rehearse(!rehearsing)">{{ t('motions.loop') }}</button>
    </div>
  </section>
</template>

<style scoped>
.score {
  padding-top: 6px;
  font-size: 12px;
}
.strip {
  position: relative;
  background: #242424;
}
.strip canvas {
  display: block;
  width: 100%;
  height: 100%;
}
.name {
  position: absolute;
  left: 8px;
  font-size: 11px;
  color: #b9b4a8;
  pointer-events: none;
  text-shadow: 0 0 3px #242424, 0 0 3px #242424;
}
.rule {
  position: absolute;
  left: 0;
  right: 0;
  height: 16px;
  cursor: ns-resize;
  touch-action: none;
}
.rule::before {
  content: '';
  position: absolute;
  inset: 7.25px 0 auto;
  height: 1.5px;
  background: #ff9a5c;
}
.rule::after {
  content: '';
  position: absolute;
  right: 2px;
  top: 3px;
  width: 10px;
  height: 10px;
  background: #ff9a5c;
}
.rule:focus-visible {
  outline: 1.5px solid #fff;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 12px;
  padding-top: 4px;
}
.legend .word {
  min-height: 24px;
}
.cue {
  min-height: 24px;
  color: #fff;
  white-space: nowrap;
}
.cue i {
  display: inline-block;
  width: 7px;
  height: 7px;
  margin-right: 5px;
  border-radius: 50%;
  background: #e6e1d4;
}
.cue.bright i {
  width: 0;
  height: 12px;
  border-radius: 0;
  background: none;
  border-left: 2px dotted #ff9a5c;
  vertical-align: -2px;
}
.gap {
  flex: 1;
}
</style>
