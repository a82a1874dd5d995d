<!-- The picture in its neutral surround, what stands before the camera above it, judging aids and time below. -->
<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Cue, Plain } from '../../api/types'
import type { Score } from '../motions/useScore'
import type { Trying } from '../motions/useTrying'
import type { Beside } from './useBeside'
import type { Faces } from './useFaces'
import type { Gpu } from './useGpu'
import { SCOPES, SCREENS, SHORTS, SPEEDS, type Looking } from './useLooking'
import { usePicker } from './usePicker'
import type { Real } from '../cast/useRealCamera'
import type { Sittings } from '../cast/useSitting'
import type { Stream } from '../../stream/useStream'
import type { Tracking } from '../cast/useTracking'
import type { Handles } from '../handles/useHandles'
import BesidePicture from './BesidePicture.vue'
import CastPicker from '../cast/CastPicker.vue'
import HandleSheet from '../handles/HandleSheet.vue'
import PictureFrame from './PictureFrame.vue'
import { t } from '../../words'

const ScoreStrip = defineAsyncComponent(() => import('../motions/ScoreStrip.vue'))

const props = defineProps<{
  stream: Stream
  gpu: Gpu
  looking: Looking
  sittings: Sittings
  real: Real
  name: string
  still: string | null
  stillName: string | null
  beside: Beside | null
  /** Who of the cast stands beside. */
  besideWho: string | null
  faces: Faces
  tracking: Tracking
  handles: Handles
  note: string
  score: Score
  trying: Trying
  cues: Cue[]
}>()
const emit = defineEmits<{
  picture: [file: File]
  standIn: []
  endBeside: []
  besideWho: [who: string | null]
  threshold: [cue: string, value: Plain]
  commit: [cue: string]
}>()
const { playing, bare, wipe, screen, short, scope, clipping, probing, speed, region } = props.looking
const { picking, answer } = usePicker()

const frame = ref<InstanceType<typeof PictureFrame> | null>(null)
const next = ref<InstanceType<typeof BesidePicture> | null>(null)
const over = ref(false)

const clock = computed(() => {
  const seconds = props.stream.status.frame / 30
  const minutes = Math.floor(seconds / 60)
  return `${String(minutes).padStart(2, '0')}:${(seconds % 60).toFixed(1).padStart(4, '0')}`
})
const pace = computed(() => {
  if (playing.value) return t('picture.fps', { rate: props.stream.status.rate, which: speed.value === 1 ? '' : ` ${t('picture.at', { value: speed.value * 100 })}` })
  return props.stream.status.lossless ? 'paused, lossless' : 'paused'
})
const left = computed(() => {
  if (picking.value) return t('picture.clickAColourEscapeLeavesIt')
  if (props.note) return props.note
  return wipe.value !== null ? 'bare' : bare.value ? 'held: the bare camera' : ''
})
const rgb = (parts: number[]) => parts.map((part) => String(part).padStart(3, ' ')).join(' ')
const css = (parts: number[]) => `rgb(${parts.join(' ')})`
const part = computed(() => region.value.some((edge, n) => edge !== (n < 2 ? 0 : 1)))

function dropped(event: DragEvent): void {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) emit('picture', file)
}
const source = computed(() => {
  if (props.gpu.on.value) return t('picture.nowOnThisDevicesGpuAs')
  return props.gpu.wanted.value
    ? t('picture.byPythonWhileValuesAreRead')
    : t('picture.nowRenderedByPythonSeeIt')
})
const loud = computed(() => props.gpu.on.value && props.gpu.trouble.value !== '')
const zoomed = computed(() => (frame.value && frame.value.zoom > 1 ? ` ${frame.value.zoom} ×` : ''))
const text = (event: Event) => (event.target as HTMLSelectElement).value

defineExpose({
  move: (layer: string, control: string, value: Plain) => next.value?.move(layer, control, value),
  zoom: () => frame.value?.nextZoom(), escape: () => picking.value && answer(null),
})
</script>

<template>
  <aside
    class="surround" :class="{ over, wide: screen === '16:9' }" :aria-label="t('picture.picture')" @dragover.prevent.stop="over = true" @dragleave="over = false"
    @drop.prevent.stop="dropped">
    <div class="above">
      <CastPicker :sittings="sittings" :real="real" :still="still" :still-name="stillName" :tracking="tracking" :beside="besideWho"
        @picture="emit('picture', $event)" @stand-in="emit('standIn')" @beside="emit('besideWho', $event)" />
      <span class="gap" />
      <select v-model="screen" class="pick" :aria-label="t('picture.screen')" :title="t('picture.shapeOfTheScreenS')">
        <option v-for="one in SCREENS" :key="one">{{ one }}</option>
      </select>
      <select v-if="!beside" class="pick" :aria-label="t('picture.pixelsOfTheShortSide')" :title="t('picture.pixelsOfTheScreensShortSide')" :value="short" @change="short = Number(text($event)) as 540">
        <option v-for="one in SHORTS" :key="one" :value="one">{{ one }}</option>
      </select>
    </div>
    <div class="stage" :class="{ two: beside }">
      <PictureFrame ref="frame" :stream="stream" :gpu="gpu" :looking="looking" :faces="faces" :name="name" :trying="trying" @tap="handles.openAt">
        <template #default="{ zoom, pan, away }">
          <HandleSheet v-if="handles.shown.value.length" :handles="handles" :zoom="zoom" :pan="pan" :away="away" :short="short" />
        </template>
      </PictureFrame>
      <BesidePicture v-if="beside" ref="next" :sitting="beside.sitting" :effect="beside.effect" :name="beside.name" :playing="playing" :frame="stream.status.frame" :screen="screen" />
    </div>
    <div class="sides">
      <span v-if="!loud" class="side">{{ left }}</span>
      <span v-if="loud" class="lost" role="alert">{{ gpu.trouble.value }}</span>
      <span v-else-if="!stream.status.up" class="lost" role="status">{{ t('picture.noConnectionTryingAgain') }}</span>
      <span v-else class="figure rates">
        <span :title="t('picture.framesASecond')">{{ pace }}</span>
        <span v-if="stream.status.size && !real.camera.value" :title="t('picture.thisEffectTakesLongWhileIt')">{{ ' ' + t('picture.at2', { size: stream.status.size }) }}</span>
        <span v-if="stream.status.delay" :title="t('picture.fromTheLastMoveOfA')">{{ ' ' + t('picture.ms', { delay: Math.round(stream.status.delay) }) }}</span>
      </span>
      <span v-if="!loud" class="side name">
        <button v-if="beside" class="word" @click="emit('endBeside')">{{ t('picture.close', { name: beside.name }) }}</button>
        <template v-else>{{ wipe !== null ? name : '' }}</template>
      </span>
    </div>
    <div v-if="scope || probing || score.on.value" class="aids">
      <ScoreStrip v-if="score.on.value" :score="score" :trying="trying" :cues="cues" @turn="(cue, value) => emit('threshold', cue, value)" @commit="emit('commit', $event)" />
      <div v-if="scope" class="scope">
        <canvas :ref="(element) => stream.attachScope(element as HTMLCanvasElement | null)" width="256" height="128" role="img" :aria-label="t('picture.ofThePicture', { scope })" />
        <span class="ways">
          <button v-for="one in SCOPES" :key="one" class="word" :aria-pressed="one === scope" @click="scope = one">{{ one }}</button>
          <button v-if="part" class="word" @click="region = looking.WHOLE">{{ t('picture.wholePicture') }}</button>
          <span v-else class="hint">{{ t('picture.shiftDragForAPart') }}</span>
        </span>
      </div>
      <p v-if="probing" class="probe figure" aria-live="off">
        <template v-if="stream.probed.value">
          <i :style="{ background: css(stream.probed.value.before) }" />{{ rgb(stream.probed.value.before) }}
          <span aria-hidden="true">→</span>
          <i :style="{ background: css(stream.probed.value.after) }" />{{ rgb(stream.probed.value.after) }}
        </template>
        <template v-else>{{ t('picture.pointAtThePicture') }}</template>
      </p>
    </div>
    <div class="below">
      <span class="figure clock">{{ clock }}</span>
      <button class="word" :title="t('picture.space')" @click="playing = !playing">{{ playing ? t('picture.pause') : t('picture.play') }}</button>
      <button class="word" :aria-label="t('picture.n1Frame')" :title="t('picture.oneFrameBack')" @click="looking.step(-1)">−1</button>
      <button class="word" :aria-label="t('picture.n1Frame2')" :title="t('picture.oneFrameOn')" @click="looking.step(1)">+1</button>
      <select class="pick" :aria-label="t('picture.speed')" :title="t('picture.slowV')" :value="speed" @change="speed = Number(text($event))">
        <option v-for="one in SPEEDS" :key="one" :value="one">{{ one * 100 }} %</option>
      </select>
      <span class="gap" />
      <button class="word" :aria-pressed="wipe !== null" title="W" @click="looking.toggleWipe">{{ wipe === null ? t('picture.wipe') : t('picture.endWipe') }}</button>
      <button class="word hold" :title="t('picture.holdB')" @pointerdown="bare = true" @pointerup="bare = false" @pointerleave="bare = false">{{ t('picture.bare') }}</button>
    </div>
    <div class="below tools">
      <button class="word" :aria-pressed="scope !== null" :title="t('picture.scopesH')" @click="scope = scope ? null : 'waveform'">{{ t('picture.scope') }}</button>
      <button class="word" :aria-pressed="probing" :title="t('picture.valuesWhereYouPointBeforeAnd')" @click="probing = !probing">{{ t('picture.probe') }}</button>
      <button class="word" :aria-pressed="clipping" :title="t('picture.markWhatIsCutOffRed')" @click="clipping = !clipping">{{ t('picture.clip') }}</button>
      <button class="word" :aria-pressed="faces.on.value" :title="t('picture.thePointsOfFacesTheCasts')" @click="faces.toggle">{{ t('picture.face') }}</button>
      <button v-if="score.listens.value" class="word" :aria-pressed="score.on.value" :title="t('motions.whatTheEffectListensTo')" @click="score.toggle">{{ t('motions.score') }}</button>
      <button
        v-if="handles.there.value.length" class="word" :aria-pressed="handles.on.value" :title="t('picture.whatIsPlacedOnThePicture')" @click="handles.toggle">
        {{ t('picture.handles') }}
      </button>
      <button class="word" :title="t('picture.zoomToThePixelsZOr')" @click="frame?.nextZoom()">{{ t('picture.zoom', { zoomed }) }}</button>
      <span class="gap" />
      <span class="ways" role="group" :aria-label="t('picture.renderedBy')" :title="source">
        <button class="word" :aria-pressed="!gpu.on.value" @click="gpu.wanted.value && gpu.toggle()">{{ t('picture.python') }}</button>
        <button class="word" :aria-pressed="gpu.on.value" :class="{ waits: gpu.wanted.value && !gpu.on.value }" @click="!gpu.wanted.value && gpu.toggle()">{{ t('picture.gpu') }}</button>
      </span>
    </div>
  </aside>
</template>

<style scoped>
.surround {
  display: grid;
  grid-template-rows: 46px minmax(0, 1fr) minmax(22px, auto) auto 28px 32px;
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
  min-width: 0;
  padding: 0 16px;
  background: var(--surround);
  color: #fff;
}
/* A wide picture has the whole height; what belongs to it stands beside it. */
.surround.wide {
  grid-template: 'above stage' 46px 'sides stage' auto 'aids stage' minmax(0, 1fr) 'below stage' 28px 'tools stage' 32px / 312px minmax(0, 1fr);
  column-gap: 20px;
}
.wide .above {
  grid-area: above;
  gap: 8px;
}
.wide .stage {
  grid-area: stage;
  padding: 12px 0;
}
.wide .sides {
  grid-area: sides;
  display: flex;
  flex-flow: row-reverse wrap;
  justify-content: flex-end;
}
.wide .side:empty {
  display: none;
}
.wide .aids {
  grid-area: aids;
  overflow: hidden;
}
.wide .ways {
  flex-wrap: wrap;
}
.surround.wide .below {
  grid-area: below;
}
.surround.wide .tools {
  grid-area: tools;
}
.below {
  grid-row: 5;
}
.below.tools {
  grid-row: 6;
  padding-bottom: 6px;
}
.surround.over {
  box-shadow: inset 0 0 0 3px #fff;
}
.above {
  display: flex;
  align-items: center;
  gap: 14px;
  min-width: 0;
}
.stage {
  display: grid;
  min-height: 0;
}
.stage.two {
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.pick {
  appearance: none;
  border: 1px solid #b5b5b5;
  border-radius: 2px;
  padding: 2px 8px;
  font-family: var(--mono);
  font-size: 12px;
  color: #fff;
  background: var(--surround);
  cursor: pointer;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr);
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
.aids {
  padding: 4px 0 2px;
  font-size: 12px;
}
.scope canvas {
  display: block;
  width: 100%;
  max-height: 150px;
  object-fit: contain;
  background: #242424;
}
.ways {
  display: flex;
  gap: 12px;
  padding-top: 3px;
}
.hint {
  margin-left: auto;
}
.probe {
  display: flex;
  gap: 8px;
  align-items: center;
  white-space: pre;
  padding-top: 4px;
}
.probe i {
  width: 15px;
  height: 15px;
  border: 1px solid #fff;
}
.below {
  display: flex;
  align-items: center;
  gap: clamp(7px, 0.9vw, 14px);
  white-space: nowrap;
  font-size: 12px;
  min-width: 0;
}
.below .word {
  min-width: 24px;
  min-height: 24px;
}
.surround .word {
  text-decoration-color: #b5b5b5;
}
.surround .word[aria-pressed='true'] {
  font-weight: 650;
  text-decoration-color: #fff;
  text-decoration-thickness: 2px;
}
.clock {
  min-width: 50px;
}
.gap {
  flex: 1;
}
.lost {
  font-weight: 650;
  grid-column: 1 / -1;
  white-space: normal;
  text-align: center;
}
.hold {
  touch-action: none;
  user-select: none;
}
</style>
