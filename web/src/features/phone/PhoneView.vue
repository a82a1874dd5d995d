<!-- The stand-in phone: full-bleed picture, thumb-sized controls. The program runs on this device's GPU. -->
<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { api } from '../../api/client'
import '../../engine/dials.css'
import { Dials, dialsOf, photoOf } from '../../engine/dials'
import { Host, touching } from '../../engine/host'
import { faceOf } from '../../engine/faces'
import { Keeping } from '../../engine/keeping'
import '../../engine/keeping.css'
import { Pace } from '../../engine/pace'
import { renewed } from '../../engine/older'
import { load } from '../../engine/player'
import { StandIn } from '../../camera/standin'
import { hasCamera, lacking, RealCamera, stopCamera } from '../../camera/camera'
import { t } from '../../words'

const props = defineProps<{ code: string }>()

const canvas = ref<HTMLCanvasElement | null>(null)
const name = ref('')
const trouble = ref('')
const notice = ref('')
const playing = ref(true)
const isReal = ref(false)
const worn = ref<HTMLElement | null>(null)
/** A phone that lies on its side: the picture lies, too, and what the thumbs reach stands at its right. */
const onSide = useMediaQuery('(orientation: landscape) and (max-height: 540px)')
const screen = computed<[number, number]>(() => (onSide.value ? [960, 540] : [540, 960]))
let host: Host | null = null
let standIn: StandIn | null = null
let real: RealCamera | null = null
let closed = false
let keeping: Keeping | null = null
let pace = new Pace()
const thumbs = ref<HTMLElement | null>(null)
const kept = ref<HTMLElement | null>(null)
const side = ref<'front' | 'back'>('front')
const cameras = ref(0)
/** Whether the picture may become smaller where it would stutter. */
const query = new URLSearchParams(location.search)
const keepsBeat = query.get('beat') !== 'off'
/** A version that is tried before it is taken; else that which the address plays. */
const asked = Number(query.get('number')) || undefined
const leaving = new AbortController()
const fullScreen = document.fullscreenEnabled

async function open(): Promise<void> {
  try {
    const shown = await api.shown(props.code, asked)
    name.value = shown.name
    document.title = name.value
    const { program, material } = await load(`/api/packages/${props.code}/files`, `?number=${shown.number}`, renewed)
    standIn = await facing()
    if (!canvas.value || closed) return
    host = new Host(canvas.value)
    host.open(program, material)
    touching(canvas.value, host, leaving.signal)
    wear(host)
    keeping = new Keeping(canvas.value, () => name.value, () => host?.redraw(), (words) => (notice.value = words))
    thumbs.value?.append(keeping.still, keeping.clip)
    kept.value?.replaceChildren(keeping.kept)
    void run(host)
    void api.count(props.code, 'tries').catch(() => undefined)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}

/** What the wearer may turn. */
function wear(host: Host): void {
  const photo = (file: File) => void photoOf(file).then((picture) => host.photo(picture)).catch(() => (notice.value = t('camera.noPicture')))
  const shown = dialsOf(host.dials, host.asksForPhoto, t('camera.yourPhoto'))
  if (!shown.length) return
  const dials = new Dials(shown, (numbers) => host.turn(numbers), photo)
  worn.value?.replaceChildren(dials.element)
  window.addEventListener('pointerdown', () => dials.wake(), { signal: leaving.signal })
}

async function run(host: Host): Promise<void> {
  let size = screen.value
  while (!closed) {
    await new Promise(requestAnimationFrame)
    const before = standIn
    if (!before) continue
    if (real) {
      // While a clip is recorded its pictures keep their size and shape.
      if (!keeping?.films) size = screen.value.map((length) => Math.round(length * pace.share)) as [number, number]
      const seen = host.playing ? real.seen(...size, host.masks, host.readsFaces) : null
      if (seen) {
        host.faces = seen.faces.map((points) => faceOf(points, ...size))
        host.draw(host.frame, ...size, seen)
        if (keepsBeat && !keeping?.films && pace.drawn(performance.now()) && !notice.value) passing(t('camera.smaller'))
        if (real.trouble) notice.value = real.trouble
        if (real.foretells && !notice.value) notice.value = t('camera.foretold')
        else if (!real.foretells && notice.value === t('camera.foretold')) notice.value = ''
      }
      continue
    }
    const now = host.frame
    if (now === host.shown && !dirty && !host.blank) continue
    let picture: ImageBitmap
    let masks: Map<string, ImageBitmap>
    try {
      picture = await before.frame(now)
      masks = await before.masks(now, host.masks)
      if (host.readsFaces) host.faces = (await before.moment(now)).faces
      failures = 0
    } catch {
      // A frame that does not come is left out; when many do not, it is said, and still asked for.
      failures++
      if (failures === MANY_FAILURES) notice.value = t('phone.theStandInCameraDoesNot')
      await new Promise((resolve) => setTimeout(resolve, Math.min(2000, 50 * failures)))
      continue
    }
    if (notice.value.startsWith('The stand-in camera does not answer')) notice.value = ''
    // One that was on its way when the picture was frozen comes too late: what was seen stays.
    if (host.playing || host.shown < 0 || now === host.shown) {
      host.draw(now, before.facts.width, before.facts.height, { picture, masks })
      dirty = false
    }
    picture.close()
    for (const mask of masks.values()) mask.close()
  }
}
let dirty = false
let failures = 0
const MANY_FAILURES = 10

/** A word in passing. */
const PASSING_MS = 5000
function passing(words: string): void {
  notice.value = words
  window.setTimeout(() => notice.value === words && (notice.value = ''), PASSING_MS)
}

function full(): void {
  void (document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen())
}

/** The other side's camera, of the stand-in or of the device. */
async function turn(): Promise<void> {
  side.value = side.value === 'front' ? 'back' : 'front'
  if (host) host.side = side.value
  if (real) await useReal()
  await turned()
}

/** The stand-in as the phone is held, on the side that it faces. */
function facing(): Promise<StandIn> {
  if (side.value === 'front' && !onSide.value) return StandIn.open()
  return StandIn.open({ who: 'lamp-tender', script: 'talk', light: 'noon', back: side.value === 'back', tracked: false }, onSide.value ? '16:9' : '9:16')
}
async function turned(): Promise<void> {
  standIn = await facing().catch(() => standIn)
  dirty = true
}
/** A clip that is recorded keeps its shape; the picture lies or stands once it has ended. */
watch(onSide, async () => {
  while (keeping?.films) await new Promise((resolve) => setTimeout(resolve, 200))
  if (!closed) await turned()
})

/** The bare camera while held. */
function hold(down: boolean): void {
  if (host) host.bare = down
  dirty = true
}

function pause(): void {
  host?.pause()
  playing.value = host?.playing ?? true
}

async function useReal(): Promise<void> {
  notice.value = ''
  const camera = new RealCamera((words) => useStandIn(t('phone.hereIsTheStandInAgain', { words })))
  try {
    if (!(await camera.start(undefined, side.value))) return
    pace = new Pace()
    cameras.value = (await RealCamera.devices()).length
    real = camera
    isReal.value = true
    notice.value = lacking(host?.masks ?? [])
  } catch (error) {
    useStandIn(t('phone.theStandInPlaysOn', { which: error instanceof Error ? error.message : String(error) }))
  }
}

function useStandIn(words = ''): void {
  stopCamera()
  real = null
  isReal.value = false
  notice.value = words
  dirty = true
}

onMounted(open)
onBeforeUnmount(() => {
  closed = true
  leaving.abort()
  useStandIn()
  keeping?.close()
  host?.close()
})
</script>

<template>
  <main class="phone">
    <canvas ref="canvas" class="screen" role="img" :aria-label="t('phone.theCameraThrough', { name })" />
    <h1>{{ name }}</h1>
    <div v-if="!trouble" class="cameras">
      <button v-if="!isReal && hasCamera()" @click="useReal">{{ t('phone.myCamera') }}</button>
      <button v-if="isReal" @click="useStandIn()">{{ t('phone.standIn') }}</button>
      <button v-if="!isReal || cameras > 1" @click="turn">{{ side === 'front' ? t('camera.backCamera') : t('camera.frontCamera') }}</button>
      <button v-if="fullScreen" @click="full">{{ t('camera.full') }}</button>
    </div>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }} <a href="/showcase">{{ t('phone.showcase') }}</a></p>
    <p v-if="notice" class="notice" role="status">{{ notice }}</p>
    <div ref="worn" class="worn" />
    <div ref="kept" class="over" />
    <div v-if="!trouble" ref="thumbs" class="thumbs">
      <button @click="pause">{{ playing ? t('phone.freeze') : t('phone.goOn') }}</button>
      <button
        class="hold" @pointerdown="hold(true)" @pointerup="hold(false)" @pointercancel="hold(false)" @pointerleave="hold(false)">
        {{ t('phone.holdForBare') }}
      </button>
    </div>
  </main>
</template>

<style scoped>
.phone {
  position: fixed;
  inset: 0;
  background: #1b1b1b;
  color: #fff;
  overflow: hidden;
}
.screen {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
@media (max-aspect-ratio: 3 / 4) {
  .screen {
    object-fit: cover;
  }
}
h1 {
  position: absolute;
  top: max(18px, env(safe-area-inset-top));
  left: 20px;
  right: 150px;
  text-shadow: 0 0 6px rgb(0 0 0 / 70%);
}
.trouble,
.notice {
  position: absolute;
  left: 20px;
  right: 150px;
  top: 56px;
  padding: 14px 16px;
  background: rgb(20 20 20 / 88%);
  font-size: 17px;
}
.worn {
  position: absolute;
  inset: auto max(16px, calc(50% - 260px)) calc(max(24px, env(safe-area-inset-bottom)) + 64px);
}
.thumbs {
  position: absolute;
  inset: auto 0 max(24px, env(safe-area-inset-bottom));
  display: flex;
  justify-content: center;
  gap: 8px;
  padding: 0 8px;
  flex-wrap: wrap;
}
.over {
  position: absolute;
  inset: auto max(16px, calc(50% - 260px)) calc(max(24px, env(safe-area-inset-bottom)) + 64px);
}
.cameras {
  position: absolute;
  top: max(12px, env(safe-area-inset-top));
  right: 12px;
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  gap: 8px;
}
.cameras button {
  min-height: 44px;
  padding: 0 14px;
  border-radius: 22px;
  background: rgb(20 20 20 / 60%);
  color: #fff;
}
.thumbs :deep(button) {
  min-width: 74px;
  min-height: 52px;
  padding: 0 13px;
  border-radius: 26px;
  background: rgb(20 20 20 / 72%);
  color: #fff;
  font-size: 15px;
}
.hold {
  touch-action: none;
  user-select: none;
}
@media (orientation: landscape) and (max-height: 540px) {
  .screen {
    object-fit: cover;
  }
  .thumbs {
    inset: 0 max(12px, env(safe-area-inset-right)) 0 auto;
    flex-flow: column nowrap;
    justify-content: center;
    align-items: stretch;
  }
  .cameras {
    inset: 60px auto auto max(12px, env(safe-area-inset-left));
    align-items: flex-start;
  }
  .worn,
  .over {
    inset: auto 170px max(12px, env(safe-area-inset-bottom)) max(150px, calc(env(safe-area-inset-left) + 150px));
  }
  .trouble,
  .notice {
    left: 150px;
    right: 170px;
    top: 14px;
  }
}
.phone :focus-visible {
  outline-color: #fff;
}
</style>
