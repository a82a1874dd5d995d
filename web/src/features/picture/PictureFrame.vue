<!-- The picture itself: live, wiped, zoomed to its pixels, probed; a click answers whoever asked for a colour of it. -->
<script setup lang="ts">
import '../../engine/dials.css'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { fingers } from '../../engine/host'
import type { Trying } from '../motions/useTrying'
import type { Faces } from './useFaces'
import type { Gpu } from './useGpu'
import type { Looking } from './useLooking'
import { usePicker } from './usePicker'
import type { Stream } from '../../stream/useStream'
import FaceMarks from './FaceMarks.vue'
import { t } from '../../words'

const props = defineProps<{ stream: Stream; gpu: Gpu; looking: Looking; faces: Faces; name: string; trying: Trying }>()
/** `tap`: a click on a place of the picture (u, v) that meant nothing else. */
const emit = defineEmits<{ tap: [place: [number, number]] }>()
const { bare, wipe, probing, scope, region } = props.looking
const { picking, answer } = usePicker()

const ZOOMS = [1, 2, 4, 8, 16]
/** CSS pixels by which a hand may move and still have clicked. */
const STILL = 4
const frame = ref<HTMLElement | null>(null)
const zoom = ref(1)
const pan = ref<[number, number]>([0.5, 0.5])
let wiping = false
let dragging: { x: number; y: number; pan: [number, number] } | null = null
let drawing: [number, number] | null = null
let pressed: { x: number; y: number } | null = null

const shape = computed(() => props.stream.status.width / props.stream.status.height)
const moved = computed(() => {
  if (zoom.value === 1) return {}
  const part = (n: number) => `${-(n * zoom.value - 0.5) * 100}%`
  return { transform: `translate(${part(pan.value[0])}, ${part(pan.value[1])}) scale(${zoom.value})`, transformOrigin: '0 0' }
})
const framed = computed(() => {
  const [left, top, right, bottom] = region.value
  return scope.value && (right - left < 1 || bottom - top < 1)
    ? { left: `${left * 100}%`, top: `${top * 100}%`, width: `${(right - left) * 100}%`, height: `${(bottom - top) * 100}%` }
    : null
})

/** Where on the picture a pointer is, 0 to 1, whatever the zoom. */
function place(event: PointerEvent | WheelEvent): [number, number] {
  const canvas = frame.value?.querySelector('canvas.picture')?.getBoundingClientRect()
  if (!canvas) return [0, 0]
  const inside = (n: number) => Math.min(0.9999, Math.max(0, n))
  return [inside((event.clientX - canvas.left) / canvas.width), inside((event.clientY - canvas.top) / canvas.height)]
}

function wipeTo(event: PointerEvent): void {
  const box = frame.value?.getBoundingClientRect()
  if (wiping && box) wipe.value = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width))
}
function grabWipe(event: PointerEvent): void {
  wiping = true
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function wipeKey(event: KeyboardEvent): void {
  const step = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key]
  if (!step || wipe.value === null) return
  event.preventDefault()
  wipe.value = Math.min(1, Math.max(0, wipe.value + step))
}

function zoomTo(to: number, at: [number, number] = [0.5, 0.5]): void {
  if (zoom.value === 1) pan.value = at
  zoom.value = to
  hold(pan.value)
}
/** No more than the picture's border comes into the middle of the frame's edge. */
function hold([x, y]: [number, number]): void {
  const half = 0.5 / zoom.value
  pan.value = [Math.min(1 - half, Math.max(half, x)), Math.min(1 - half, Math.max(half, y))]
}
function wheel(event: WheelEvent): void {
  const to = ZOOMS[ZOOMS.indexOf(zoom.value) + (event.deltaY < 0 ? 1 : -1)]
  if (to) zoomTo(to, place(event))
}
function nextZoom(by = 1): void {
  zoomTo(ZOOMS[(ZOOMS.indexOf(zoom.value) + by + ZOOMS.length) % ZOOMS.length] ?? 1)
}

/** While it is tried, fingers on the picture are the wearer's, and the dials lie over it as on the phone. */
const tried = props.trying.trying
const worn = ref<HTMLElement | null>(null)
const leaving = new AbortController()
onMounted(() => {
  if (frame.value) fingers(frame.value, place, (isDown, u, v, two) => tried.value && props.trying.done({ touch: { down: isDown, u, v, ...two } }), leaving.signal)
})
onBeforeUnmount(() => leaving.abort())
watch([tried, worn], ([on]) => {
  if (on) worn.value?.replaceChildren(props.trying.dials.element)
  props.trying.dials.wake()
})

async function down(event: PointerEvent): Promise<void> {
  if (event.button !== 0 || tried.value) return
  if (picking.value) {
    answer(await colourAt(place(event)))
    return
  }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  pressed = event.shiftKey ? null : { x: event.clientX, y: event.clientY }
  if (scope.value && event.shiftKey) drawing = place(event)
  else if (zoom.value > 1) dragging = { x: event.clientX, y: event.clientY, pan: pan.value }
}
let last = 0
function move(event: PointerEvent): void {
  const [x, y] = place(event)
  if (drawing) {
    const [left, right] = [Math.min(drawing[0], x), Math.max(drawing[0], x)]
    const [top, bottom] = [Math.min(drawing[1], y), Math.max(drawing[1], y)]
    if (right - left > 0.02 && bottom - top > 0.02) region.value = [left, top, right, bottom]
  } else if (dragging && frame.value) {
    const box = frame.value.getBoundingClientRect()
    hold([dragging.pan[0] - (event.clientX - dragging.x) / box.width / zoom.value, dragging.pan[1] - (event.clientY - dragging.y) / box.height / zoom.value])
  }
  if (probing.value && event.timeStamp - last > 60) {
    last = event.timeStamp
    props.stream.setView({ probe: [x, y] })
  }
}
function up(event: PointerEvent): void {
  if (drawing && scope.value) {
    const [x, y] = place(event)
    if (Math.abs(x - drawing[0]) < 0.02 && Math.abs(y - drawing[1]) < 0.02) region.value = props.looking.WHOLE
  }
  if (pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < STILL) emit('tap', place(event))
  drawing = dragging = pressed = null
}

/** The shown picture's colour at a place: a paused picture's is true, a moving one's as its JPEG has it. */
async function colourAt([u, v]: [number, number]): Promise<string | null> {
  const shown = frame.value?.querySelector<HTMLCanvasElement>(props.gpu.on.value ? 'canvas.gpu' : 'canvas.picture')
  if (!shown) return null
  const copy = document.createElement('canvas')
  copy.width = copy.height = 1
  const context = copy.getContext('2d', { willReadFrequently: true })
  context?.drawImage(shown, Math.floor(u * shown.width), Math.floor(v * shown.height), 1, 1, 0, 0, 1, 1)
  const data = context?.getImageData(0, 0, 1, 1).data
  return data ? `#${[...data].slice(0, 3).map((part) => part.toString(16).padStart(2, '0')).join('')}` : null
}

watch(probing, (on) => on && props.stream.setView({ probe: [0.5, 0.5] }))
defineExpose({ nextZoom, zoom })
</script>

<template>
  <div class="room">
    <div
      ref="frame" class="frame" :class="{ picking, tried, zoomed: zoom > 1 }" :style="{ '--shape': shape }" @wheel.prevent="wheel" @pointerdown="down"
      @pointermove="move" @pointerup="up" @pointercancel="up">
      <div class="moved" :style="moved">
        <canvas
          :ref="(element) => stream.attach(element as HTMLCanvasElement | null)" class="picture" :class="{ hard: zoom >= 4 }" width="540"
          height="960" role="img" :aria-busy="stream.busy.value" :aria-label="bare ? t('picture.theBareCamera') : t('picture.theCameraThrough', { name })" />
        <canvas
          v-show="gpu.on.value && !bare" :ref="(element) => gpu.attach(element as HTMLCanvasElement | null)" class="gpu" :class="{ hard: zoom >= 4 }"
          width="540" height="960" role="img" :aria-label="t('picture.theCameraThroughOnThisDevices', { name })"
          :style="{ clipPath: wipe === null ? 'none' : `inset(0 0 0 ${wipe * 100}%)` }" />
        <FaceMarks v-if="faces.on.value" :faces="faces.faces.value" :width="stream.status.width" :height="stream.status.height" />
        <i v-if="framed" class="region" :style="framed" />
      </div>
      <slot :zoom="zoom" :pan="pan" :away="picking || tried" />
      <div v-if="tried" ref="worn" class="worn" @pointerdown.stop />
      <p v-if="!stream.status.seen" class="waiting">{{ t('picture.startingThePicture') }}</p>
      <div
        v-if="wipe !== null" class="wipe" role="slider" tabindex="0" :aria-label="t('picture.wipeBetweenBareAndEffect')"
        aria-valuemin="0" aria-valuemax="100" :aria-valuenow="Math.round(wipe * 100)" :style="{ left: `${wipe * 100}%` }"
        @pointerdown.stop="grabWipe" @pointermove="wipeTo" @pointerup="wiping = false" @pointercancel="wiping = false" @keydown="wipeKey">
        <i />
      </div>
    </div>
  </div>
</template>

<style scoped>
.room {
  container-type: size;
  display: grid;
  place-items: center;
}
.frame {
  position: relative;
  width: min(100cqw, 100cqh * var(--shape));
  aspect-ratio: var(--shape);
  overflow: hidden;
}
.moved {
  position: absolute;
  inset: 0;
}
.picture,
.gpu {
  position: absolute;
  inset: 0;
  display: block;
  width: 100%;
  height: 100%;
}
.hard {
  image-rendering: pixelated;
}
.picking {
  cursor: crosshair;
}
.worn {
  position: absolute;
  inset: auto 10px 12px;
}
.tried {
  touch-action: none;
  cursor: pointer;
}
.zoomed:not(.picking, .tried) {
  cursor: grab;
}
.region {
  position: absolute;
  border: 1px solid #fff;
  outline: 1px solid rgb(0 0 0 / 60%);
  pointer-events: none;
}
.waiting {
  position: absolute;
  inset: 45% 0 auto;
  text-align: center;
}
.wipe {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 28px;
  margin-left: -14px;
  cursor: ew-resize;
  touch-action: none;
}
.wipe::before {
  content: '';
  position: absolute;
  left: 13.5px;
  top: 0;
  bottom: 0;
  width: 1px;
  background: #fff;
  box-shadow: 0 0 2px rgb(0 0 0 / 60%);
}
.wipe i {
  position: absolute;
  top: 51%;
  left: 4px;
  width: 20px;
  height: 20px;
  border: 1.5px solid #fff;
  border-radius: 50%;
  box-shadow: 0 0 2px rgb(0 0 0 / 60%);
}
</style>
