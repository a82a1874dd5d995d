<!-- The clip as a strip of its pictures, and the span that is taken: two ends to drag, and the part between them. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { t } from '../../words'

const props = defineProps<{ address: string | null; seconds: number; span: [number, number] }>()
/** `at`: the part of the clip that the hand is at, to be shown. */
const emit = defineEmits<{ span: [span: [number, number]]; at: [part: number] }>()

const LEAST = 0.05
const strip = ref<HTMLElement | null>(null)
const per = (second: number) => `${((second / props.seconds) * 100).toFixed(3)}%`
const ends = computed(() => [
  { name: t('clip.begins'), value: props.span[0] },
  { name: t('clip.ends'), value: props.span[1] },
])

let moving: { end: number | null; from: [number, number]; x: number } | null = null
const place = (event: PointerEvent): number => {
  const box = strip.value?.getBoundingClientRect()
  return box ? Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) * props.seconds : 0
}
function put(end: number | null, from: [number, number], second: number, by: number): void {
  let [low, high] = from
  if (end === 0) low = Math.min(Math.max(0, second), high - LEAST)
  else if (end === 1) high = Math.max(Math.min(props.seconds, second), low + LEAST)
  else {
    const shift = Math.min(Math.max(by, -low), props.seconds - high)
    ;[low, high] = [low + shift, high + shift]
  }
  emit('span', [Number(low.toFixed(3)), Number(high.toFixed(3))])
  emit('at', (end === 1 ? high : low) / props.seconds)
}
function grab(event: PointerEvent, end: number | null): void {
  if (event.button !== 0) return
  moving = { end, from: props.span, x: place(event) }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function follow(event: PointerEvent): void {
  if (moving) put(moving.end, moving.from, place(event), place(event) - moving.x)
}
function key(event: KeyboardEvent, end: number): void {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (!step) return
  event.preventDefault()
  put(end, props.span, (props.span[end] ?? 0) + step * (event.shiftKey ? 0.5 : 0.05), 0)
}
</script>

<template>
  <div class="span" @pointermove="follow" @pointerup="moving = null" @pointercancel="moving = null">
    <div ref="strip" class="strip">
      <img v-if="address" :src="address" alt="" draggable="false" />
      <span class="taken" :style="{ left: per(span[0]), width: per(span[1] - span[0]) }" @pointerdown="grab($event, null)" />
      <span
        v-for="(end, n) in ends" :key="n" class="end" role="slider" tabindex="0" :data-end="n" :aria-label="end.name" aria-valuemin="0" :aria-valuemax="seconds"
        :aria-valuenow="end.value" :aria-valuetext="`${end.value.toFixed(2)} s`" :style="{ left: per(end.value) }" @pointerdown="grab($event, n)" @keydown="key($event, n)" />
    </div>
    <p class="figure times"><span v-for="(end, n) in ends" :key="n" :style="{ left: `min(${per(end.value)}, calc(100% - 48px))` }">{{ end.value.toFixed(2) }} s</span></p>
  </div>
</template>

<style scoped>
.span {
  touch-action: none;
  user-select: none;
}
.strip {
  position: relative;
  height: 40px;
  background: #1c1b19;
}
.strip img {
  width: 100%;
  height: 40px;
}
.taken {
  position: absolute;
  top: -3px;
  bottom: -3px;
  border: 2px solid var(--glaze);
  cursor: grab;
}
.end {
  position: absolute;
  top: -4px;
  bottom: -4px;
  width: 8px;
  margin-left: -4px;
  background: var(--glaze);
  cursor: ew-resize;
}
.times {
  position: relative;
  height: 18px;
  font-size: 12px;
}
.times span {
  position: absolute;
}
</style>
