<!-- The picture in its neutral surround, what stands before the camera above it, time and figures below. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Gpu } from '../composables/useGpu'
import type { Stream } from '../composables/useStream'

const props = defineProps<{ stream: Stream; gpu: Gpu; name: string; still: string | null; stillName: string | null }>()
const emit = defineEmits<{ picture: [file: File]; standIn: [] }>()

const playing = defineModel<boolean>('playing', { required: true })
const bare = defineModel<boolean>('bare', { required: true })
const wipe = defineModel<number | null>('wipe', { required: true })

const chooser = ref<HTMLInputElement | null>(null)
const frame = ref<HTMLElement | null>(null)
const over = ref(false)
let held = false

const clock = computed(() => {
  const seconds = props.stream.status.frame / 30
  const minutes = Math.floor(seconds / 60)
  return `${String(minutes).padStart(2, '0')}:${(seconds % 60).toFixed(1).padStart(4, '0')}`
})

const pace = computed(() => {
  if (playing.value) return `${props.stream.status.rate} fps`
  return props.stream.status.lossless ? 'paused, lossless' : 'paused'
})

function chosen(event: Event): void {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) emit('picture', file)
  field.value = ''
}

function dropped(event: DragEvent): void {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) emit('picture', file)
}

function follow(event: PointerEvent): void {
  const box = frame.value?.getBoundingClientRect()
  if (held && box) wipe.value = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width))
}

function grab(event: PointerEvent): void {
  held = true
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}

function wipeKey(event: KeyboardEvent): void {
  const step = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key]
  if (!step || wipe.value === null) return
  event.preventDefault()
  wipe.value = Math.min(1, Math.max(0, wipe.value + step))
}

function step(by: number): void {
  playing.value = false
  props.stream.setView({ playing: false, frame: Math.max(0, props.stream.status.frame + by) })
}

defineExpose({ step })
</script>

<template>
  <aside
    class="surround" :class="{ over }" aria-label="Picture" @dragover.prevent.stop="over = true" @dragleave="over = false"
    @drop.prevent.stop="dropped">
    <input ref="chooser" type="file" hidden accept="image/png,image/jpeg,image/webp" @change="chosen" />
    <div class="above">
      <button class="who" :aria-pressed="still === null" title="The stand-in camera" @click="emit('standIn')">
        <img src="/camera/frames/012.jpg" alt="" /><span>Lamp tender</span>
      </button>
      <button class="who" :aria-pressed="still !== null" title="PNG, JPEG or WebP in the camera's place" @click="chooser?.click()">
        {{ still ? (stillName ?? 'Own picture') : 'Own picture …' }}
      </button>
    </div>
    <div class="room">
      <div ref="frame" class="frame">
        <canvas
          :ref="(element) => stream.attach(element as HTMLCanvasElement | null)" class="picture" width="540"
          height="960" role="img" :aria-busy="stream.busy.value" :aria-label="bare ? 'The bare camera' : `The camera through ${name}`" />
        <canvas
          v-show="gpu.on.value && !bare" :ref="(element) => gpu.attach(element as HTMLCanvasElement | null)" class="gpu" width="540"
          height="960" role="img" :aria-label="`The camera through ${name}, on this device's GPU`"
          :style="{ clipPath: wipe === null ? 'none' : `inset(0 0 0 ${wipe * 100}%)` }" />
        <p v-if="!stream.status.seen" class="waiting">Starting the picture …</p>
        <div
          v-if="wipe !== null" class="wipe" role="slider" tabindex="0" aria-label="Wipe between bare and effect"
          aria-valuemin="0" aria-valuemax="100" :aria-valuenow="Math.round(wipe * 100)" :style="{ left: `${wipe * 100}%` }"
          @pointerdown="grab" @pointermove="follow" @pointerup="held = false" @pointercancel="held = false" @keydown="wipeKey">
          <i />
        </div>
      </div>
    </div>
    <div class="sides">
      <span class="side">{{ wipe !== null ? 'bare' : bare ? 'held: the bare camera' : '' }}</span>
      <span v-if="gpu.on.value && gpu.trouble.value" class="lost" role="alert">{{ gpu.trouble.value }}</span>
      <span v-else-if="!stream.status.up" class="lost" role="status">no connection, trying again</span>
      <span v-else class="figure rates">
        <span title="Frames a second">{{ pace }}</span>
        <span v-if="stream.status.size" title="This effect takes long: while it moves it is shown smaller. Paused, it is whole."> at {{ stream.status.size }}</span>
        <span v-if="stream.status.delay" title="From the last move of a control to its picture"> · {{ Math.round(stream.status.delay) }} ms</span>
      </span>
      <span class="side name">{{ wipe !== null ? name : '' }}</span>
    </div>
    <div class="below">
      <span class="figure clock">{{ clock }}</span>
      <button class="word" title="Space" @click="playing = !playing">{{ playing ? 'Pause' : 'Play' }}</button>
      <button class="word" aria-label="One frame back" title="One frame back ( , )" @click="step(-1)">−1</button>
      <button class="word" aria-label="One frame on" title="One frame on ( . )" @click="step(1)">+1</button>
      <span class="gap" />
      <button
        class="word" :aria-pressed="gpu.on.value"
        :title="gpu.on.value ? 'Now on this device\'s GPU, as phones show it. Back to Python (G)' : 'Now rendered by Python. See it on this device\'s GPU, as phones do (G)'"
        @click="gpu.toggle">
        {{ gpu.on.value ? 'GPU' : 'Python' }}
      </button>
      <button class="word" :aria-pressed="wipe !== null" title="W" @click="wipe = wipe === null ? 0.38 : null">
        {{ wipe === null ? 'Wipe' : 'End wipe' }}
      </button>
      <button
        class="word hold" title="Hold B" @pointerdown="bare = true" @pointerup="bare = false" @pointerleave="bare = false">
        Bare
      </button>
    </div>
  </aside>
</template>

<style scoped>
.surround {
  display: grid;
  grid-template-rows: 46px minmax(0, 1fr) 22px 42px;
  height: 100%;
  padding: 0 16px;
  background: var(--surround);
  color: #fff;
}
.surround.over {
  box-shadow: inset 0 0 0 3px #fff;
}
.above {
  display: flex;
  align-items: center;
  gap: 18px;
  min-width: 0;
}
.who {
  display: flex;
  align-items: center;
  gap: 8px;
  opacity: 0.85;
  padding: 3px 0;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.who img {
  width: 30px;
  height: 30px;
  border-radius: 50%;
  object-fit: cover;
  object-position: 50% 36%;
  transform: scale(1);
}
.who[aria-pressed='true'] {
  opacity: 1;
  font-weight: 650;
}
.who[aria-pressed='true'] img {
  outline: 2px solid #fff;
}
.room {
  container-type: size;
  display: grid;
  place-items: center;
}
.frame {
  position: relative;
  width: min(100cqw, 100cqh * 9 / 16);
  aspect-ratio: 9 / 16;
}
.picture {
  display: block;
  width: 100%;
  height: 100%;
}
.gpu {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
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
.sides {
  display: grid;
  grid-template-columns: 1fr auto 1fr;
  gap: 10px;
  font-size: 12px;
  padding-top: 3px;
  white-space: nowrap;
}
.side {
  overflow: hidden;
  text-overflow: ellipsis;
}
.name {
  text-align: right;
}
.below {
  display: flex;
  align-items: center;
  gap: clamp(8px, 1.1vw, 14px);
  white-space: nowrap;
  font-size: 13px;
  min-width: 0;
}
.below .word {
  text-decoration-color: #b5b5b5;
}
.clock {
  min-width: 58px;
}
.gap {
  flex: 1;
}
.lost {
  font-weight: 650;
}
.hold {
  touch-action: none;
  user-select: none;
}
</style>
