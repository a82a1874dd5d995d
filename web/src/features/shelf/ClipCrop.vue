<!-- The clip's picture as it is turned, and the box that is cut out of it: dragged, and pulled by its corners; arrow keys move it. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { t } from '../../words'
import { pulled, shifted, type Box, type Turn } from './cutting'

/** `shape`: columns and rows of the turned picture. `held`: the size whose shape the box keeps. */
const props = defineProps<{ address: string; shape: [number, number]; turn: Turn; flipped: boolean; crop: Box; held: [number, number] | null }>()
const emit = defineEmits<{ crop: [box: Box] }>()

const STEP = 0.01
const frame = ref<HTMLElement | null>(null)
const ratio = computed(() => (props.held ? (props.held[0] / props.held[1]) * (props.shape[1] / props.shape[0]) : null))
const corners = computed<[number, number][]>(() => {
  const [left, top, right, bottom] = props.crop
  return [[left, top], [right, top], [right, bottom], [left, bottom]] // prettier-ignore
})
const NAMES = [t('clip.upperLeft'), t('clip.upperRight'), t('clip.lowerRight'), t('clip.lowerLeft')]
/** The picture lies unturned in its file; the frame has the shape of the turned one. */
const laid = computed(() => {
  const side = props.turn % 180 !== 0
  const [width, height] = side ? [(props.shape[1] / props.shape[0]) * 100, (props.shape[0] / props.shape[1]) * 100] : [100, 100]
  return { width: `${width}%`, height: `${height}%`, transform: `translate(-50%, -50%) ${props.flipped ? 'scaleX(-1) ' : ''}rotate(${props.turn}deg)` }
})
const taken = computed(() => ({ left: per(props.crop[0]), top: per(props.crop[1]), width: per(props.crop[2] - props.crop[0]), height: per(props.crop[3] - props.crop[1]) }))
const per = (part: number) => `${(part * 100).toFixed(3)}%`

let moving: { corner: number | null; from: Box; x: number; y: number } | null = null
function place(event: PointerEvent): [number, number] {
  const box = frame.value?.getBoundingClientRect()
  return box ? [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] : [0, 0]
}
function grab(event: PointerEvent, corner: number | null): void {
  if (event.button !== 0) return
  const [x, y] = place(event)
  moving = { corner, from: props.crop, x, y }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function follow(event: PointerEvent): void {
  if (!moving) return
  const [x, y] = place(event)
  emit('crop', moving.corner === null ? shifted(moving.from, x - moving.x, y - moving.y) : pulled(moving.from, moving.corner, x, y, ratio.value))
}
function key(event: KeyboardEvent, corner: number | null): void {
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
  if (!step) return
  event.preventDefault()
  const [dx, dy] = step.map((one) => one * STEP * (event.shiftKey ? 10 : 1)) as [number, number]
  const at = corner === null ? null : corners.value[corner]
  emit('crop', corner === null || !at ? shifted(props.crop, dx, dy) : pulled(props.crop, corner, at[0] + dx, at[1] + dy, ratio.value))
}
</script>

<template>
  <div ref="frame" class="crop" :style="{ aspectRatio: `${shape[0]} / ${shape[1]}`, maxWidth: `${(236 * shape[0]) / shape[1]}px` }" @pointermove="follow" @pointerup="moving = null" @pointercancel="moving = null">
    <span class="window"><img :src="address" :style="laid" alt="" draggable="false" /><span class="shade" :style="taken" /></span>
    <span
      class="box" role="button" tabindex="0" :aria-label="t('clip.whatIsCutOut')" :style="taken"
      @pointerdown="grab($event, null)" @keydown="key($event, null)" />
    <span
      v-for="([x, y], n) in corners" :key="n" class="corner" role="button" tabindex="0" :data-corner="n" :aria-label="NAMES[n]" :style="{ left: per(x), top: per(y) }"
      @pointerdown="grab($event, n)" @keydown="key($event, n)" />
  </div>
</template>

<style scoped>
.crop {
  position: relative;
  width: 100%;
  touch-action: none;
  user-select: none;
}
.window {
  position: absolute;
  inset: 0;
  overflow: hidden;
  background: #1c1b19;
}
.window img {
  position: absolute;
  left: 50%;
  top: 50%;
}
.box {
  position: absolute;
  outline: 1.5px solid #fff;
  box-shadow: 0 0 0 3px rgb(0 0 0 / 60%);
  cursor: move;
}
.shade {
  position: absolute;
  box-shadow: 0 0 0 2000px rgb(20 19 17 / 55%);
}
.corner {
  position: absolute;
  width: 11px;
  height: 11px;
  margin: -5.5px;
  background: #fff;
  border: 1.5px solid #23211d;
}
.box:focus-visible,
.corner:focus-visible {
  outline: 3px solid #fff;
}
</style>
