<!-- A clip becomes a sequence: its picture with the crop, how it is shaped, its span, what it weighs; the effect beside shows a draft
of it, live, before anything is kept. -->
<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Asset, CutJob } from '../../api/types'
import { MOST_BYTES as MOST, weight } from '../../document/layers'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'
import ClipCrop from './ClipCrop.vue'
import ClipSpan from './ClipSpan.vue'
import RulerControl from '../controls/RulerControl.vue'
import { followed } from './useWork'
import { asked, FEWER, framesOf, held, middle, SCREEN, usedAt, WHOLE, type Settings, type Turn } from './cutting'

/** `as`: what it is used as, in words; `used`: on which screen, or how wide on a face. */
const props = defineProps<{ clip: Asset; as: string; used: { screen: string; centimetres: number | null } }>()
const emit = defineEmits<{ look: [asset: Asset | null]; use: [asset: Asset]; close: [] }>()

const SOON_MS = 350
const POLL_MS = 150
const TURNS: Turn[] = [0, 90, 180, 270]
const { say, complain } = useMessages()

const facts = computed(() => {
  const { footage, sequence } = props.clip
  if (footage) return { width: footage.width, height: footage.height, seconds: footage.seconds || 1 / 30, rate: footage.seconds ? footage.pictures / footage.seconds : 1 }
  return { width: sequence?.width ?? 1, height: sequence?.height ?? 1, seconds: sequence?.seconds ?? 1, rate: sequence?.rate ?? 1 }
})
const upright = computed<[number, number]>(() => (now.value.turn % 180 ? [facts.value.height, facts.value.width] : [facts.value.width, facts.value.height]))
const now = ref<Settings>({
  turn: 0, flipped: false, size: SCREEN, fit: 'cover', crop: middle(SCREEN, [facts.value.width, facts.value.height]),
  span: [0, Math.min(facts.value.seconds, 3.4)], rate: Math.min(12, Math.round(facts.value.rate)) || 1, black: false, soften: 0, quality: 78,
}) // prettier-ignore
const at = ref(0)
const draft = shallowRef<CutJob | null>(null)
const work = shallowRef<CutJob | null>(null)
const frames = computed(() => framesOf(now.value))

function set(change: Partial<Settings>): void {
  now.value = { ...now.value, ...change }
}
/** What is cut out has the size's shape, where it shall fill it. */
function shape(change: Partial<Settings>): void {
  set(change)
  set({ crop: now.value.fit === 'cover' ? middle(now.value.size, upright.value) : WHOLE })
}
function side(n: 0 | 1, event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  const pixels = Number.isFinite(value) ? held(value) : now.value.size[n]
  shape({ size: n ? [now.value.size[0], pixels] : [pixels, now.value.size[1]] })
  ;(event.target as HTMLInputElement).value = String(pixels)
}

// ---- a draft, a moment after the hand rests ----
let timer = 0
let mine = 0
/** Drafts are asked for one after the other: a later one ends those before, on the server in the order in which they come. */
let asking: Promise<unknown> = Promise.resolve()
watch(now, () => {
  window.clearTimeout(timer)
  timer = window.setTimeout(renew, SOON_MS)
}, { immediate: true, deep: true }) // prettier-ignore

async function renew(): Promise<void> {
  const turn = ++mine
  try {
    await asking
    if (turn !== mine) return
    const cut = api.cut(props.clip.hash, asked(now.value, props.clip.name, true))
    asking = cut.catch(() => undefined)
    let job = await cut
    let shown = ''
    while (turn === mine) {
      draft.value = job
      if (job.asset && job.asset !== shown) {
        shown = job.asset
        emit('look', await api.asset(shown))
      }
      if (job.state !== 'running') break
      await new Promise((resolve) => setTimeout(resolve, POLL_MS))
      job = await api.cutting(job.id)
    }
  } catch (error) {
    if (turn === mine) complain(error)
  }
}

// ---- weight ----
const weights = computed(() => draft.value?.weights ?? [])
const NAMES: Record<string, string> = {
  png: t('clip.png'), lossless: t('clip.lossless'), webp: t('clip.webp'), half: t('clip.half'), fewer: t('clip.fewer'),
} // prettier-ignore
const largest = computed(() => Math.max(MOST * 1.25, ...weights.value.map((one) => one.bytes)))
const chosen = computed(() => (now.value.quality === null ? 'lossless' : 'webp'))
const total = computed(() => weights.value.find((one) => one.form === chosen.value)?.bytes ?? null)
/** One press takes a saving; the fields above show it and take it back. */
function save(form: string): void {
  const [width, height] = now.value.size
  const half: [number, number] = [held(width / 2), held(height / 2)]
  if (form === 'lossless') set({ quality: null })
  else if (form === 'webp') set({ quality: now.value.quality ?? 78 })
  else if (form === 'half') set({ quality: now.value.quality ?? 78, size: half })
  else set({ quality: now.value.quality ?? 78, size: half, rate: Math.max(1, Math.round(now.value.rate * FEWER)) })
}

// ---- the whole of it ----
async function keep(use: boolean): Promise<void> {
  mine++
  try {
    const began = await api.cut(props.clip.hash, asked(now.value, props.clip.name.replace(/\.[^.]*$/, '.zip'), false))
    const job = await followed(began, (now) => (work.value = now))
    work.value = null
    if (job.state === 'cancelled' || !job.asset) return void renew()
    const asset = await api.asset(job.asset)
    if (job.words) say(job.words)
    if (use) emit('use', asset)
    else {
      say(t('clip.keptOnTheShelf', { name: asset.name, weight: weight(asset.bytes) }))
      emit('close')
    }
  } catch (error) {
    work.value = null
    complain(error)
  }
}
const cancel = () => void (work.value && api.cancelCut(work.value.id).catch(complain))

onBeforeUnmount(() => {
  mine++
  window.clearTimeout(timer)
  cancel()
})
</script>

<template>
  <section class="clip" :aria-label="t('clip.makeASequenceOf', { name: clip.name })" @keydown.esc="emit('close')">
    <header>
      <h2>{{ clip.name }}</h2>
      <span class="second"><span class="figure">{{ facts.width }} × {{ facts.height }}</span>, <span class="figure">{{ facts.seconds.toFixed(1) }}</span> s, {{ t('clip.aSecond', { rate: Number(facts.rate.toFixed(1)) }) }}</span>
      <span class="gap" />
      <span class="acts">
        <template v-if="work">
          <span role="status">{{ t('clip.made', { done: work.done, of: work.of || frames, weight: weight(work.weight) }) }}</span>
          <button class="act" @click="cancel">{{ t('clip.cancel') }}</button>
        </template>
        <template v-else>
          <button class="act main" @click="keep(true)">{{ t('clip.useItAs', { as }) }}</button>
          <button class="act" @click="keep(false)">{{ t('clip.onlyKeepIt') }}</button>
        </template>
      </span>
      <button class="word" @click="emit('close')">{{ t('clip.close') }}</button>
    </header>
    <div class="two">
      <ClipCrop
        :address="clip.footage ? `/api/footage/${clip.hash}/pictures/${Math.round(at * (clip.footage.pictures - 1))}.jpg` : `/api/assets/${clip.hash}/pictures/${Math.round(at * ((clip.sequence?.frames ?? 1) - 1))}`"
        :shape="upright" :turn="now.turn" :flipped="now.flipped" :crop="now.crop" :held="now.fit === 'cover' ? now.size : null" @crop="set({ crop: $event })" />
      <div class="lines">
        <div class="line">
          <span>{{ t('clip.turned') }}</span>
          <span class="ways">
            <button v-for="turn in TURNS" :key="turn" class="option figure" role="radio" :aria-checked="now.turn === turn" @click="shape({ turn })">{{ turn }}°</button>
            <button class="option" role="checkbox" :aria-checked="now.flipped" @click="set({ flipped: !now.flipped })">{{ t('clip.flipped') }}</button>
          </span>
        </div>
        <div class="line">
          <span>{{ t('clip.size') }}</span>
          <span class="ways">
            <input class="field figure side" :value="now.size[0]" :aria-label="t('clip.width')" inputmode="numeric" @change="side(0, $event)" /> ×
            <input class="field figure side" :value="now.size[1]" :aria-label="t('clip.height')" inputmode="numeric" @change="side(1, $event)" />
            <button class="word" @click="shape({ size: SCREEN })">{{ t('clip.screen') }}</button>
            <button class="word" @click="shape({ size: usedAt(used.screen, used.centimetres, upright) })">{{ t('clip.asUsed') }}</button>
            <button class="word" @click="shape({ size: upright })">{{ t('clip.itsOwn') }}</button>
          </span>
        </div>
        <div class="line">
          <span>{{ t('clip.fit') }}</span>
          <span class="ways" role="radiogroup" :aria-label="t('clip.fit')">
            <button class="option" role="radio" :aria-checked="now.fit === 'cover'" @click="shape({ fit: 'cover' })">{{ t('clip.crop') }}</button>
            <button class="option" role="radio" :aria-checked="now.fit === 'contain'" @click="shape({ fit: 'contain' })">{{ t('clip.whole') }}</button>
            <button class="option" role="radio" :aria-checked="now.fit === 'stretch'" @click="shape({ fit: 'stretch' })">{{ t('clip.stretch') }}</button>
          </span>
        </div>
        <RulerControl :name="t('clip.aSecondName')" :value="now.rate" :neutral="12" :low="1" :high="30" :scale="1" unit="/s" whole @turn="set({ rate: $event })" />
        <div class="line">
          <span>{{ t('clip.black') }}</span>
          <span class="ways" role="radiogroup" :aria-label="t('clip.black')">
            <button class="option" role="radio" :aria-checked="!now.black" @click="set({ black: false })">{{ t('clip.stays') }}</button>
            <button class="option" role="radio" :aria-checked="now.black" @click="set({ black: true })">{{ t('clip.clear') }}</button>
          </span>
        </div>
        <RulerControl :name="t('clip.endsMeetOver')" :value="now.soften" :neutral="0" :low="0" :high="1" :scale="1" unit="s" @turn="set({ soften: $event })" />
        <RulerControl :name="t('clip.quality')" :value="now.quality ?? 100" :neutral="78" :low="20" :high="100" :scale="1" unit="" whole @turn="set({ quality: $event })" />
      </div>
    </div>
    <ClipSpan :address="clip.footage ? `/api/clips/${clip.hash}/strip?count=16&height=40` : null" :seconds="facts.seconds" :span="now.span" @span="set({ span: $event })" @at="at = $event" />
    <p class="count">
      <span class="figure">{{ frames }}</span> {{ t('clip.picturesLoopEvery', { seconds: (frames / now.rate).toFixed(2) }) }}
      <template v-if="total !== null"><span class="figure">{{ t('clip.aboutOf', { weight: weight(total) }) }}</span></template>
      <span v-if="draft?.state === 'running'" class="second" role="status">{{ t('clip.aDraftIsMade') }}</span>
    </p>
    <div class="weights" :aria-label="t('clip.weight')" role="group">
      <h3>{{ t('clip.weight') }}</h3>
      <p v-if="!weights.length" class="second" role="status">{{ draft?.state === 'failed' ? draft.words : t('clip.weighing') }}</p>
      <button v-for="one in weights" :key="one.form" class="form" :aria-pressed="one.form === chosen" :disabled="one.form === 'png'" :title="one.form === 'png' ? t('clip.toCompareOnly') : ''" @click="save(one.form)">
        <span>{{ NAMES[one.form] }}</span>
        <span class="bar"><i :style="{ width: `${(one.bytes / largest) * 100}%` }" :class="{ much: one.bytes > MOST }" /><b :style="{ left: `${(MOST / largest) * 100}%` }" /></span>
        <span class="figure">{{ weight(one.bytes) }}</span><span class="figure second">{{ t('clip.alike', { alike: one.alike.toFixed(3) }) }}</span>
      </button>
    </div>
  </section>
</template>

<style scoped>
.clip {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 9px;
  padding: 14px 18px 12px;
}
header {
  display: flex;
  gap: 14px;
  align-items: baseline;
  white-space: nowrap;
}
header h2 {
  overflow: hidden;
  text-overflow: ellipsis;
}
.gap {
  flex: 1;
}
.second {
  color: var(--second);
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(300px, 1fr);
  gap: 24px;
  align-items: start;
}
.line {
  display: grid;
  grid-template-columns: 104px 1fr;
  column-gap: 14px;
  align-items: center;
  min-height: 34px;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 11px;
  white-space: nowrap;
  align-items: baseline;
}
.side {
  width: 40px;
  text-align: right;
}
.form {
  display: grid;
  grid-template-columns: 190px minmax(80px, 1fr) 84px 110px;
  gap: 14px;
  align-items: center;
  width: 100%;
  min-height: 23px;
  text-align: left;
}
.form[aria-pressed='true'] {
  font-weight: 650;
}
.form:enabled:hover {
  background: var(--chalk);
}
.bar {
  position: relative;
  height: 7px;
  background: #e7e2d6;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--ink);
}
.bar .much {
  background: var(--bad);
}
.bar b {
  position: absolute;
  top: -9px;
  bottom: -9px;
  width: 2px;
  background: var(--second);
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
}
.count {
  display: flex;
  gap: 6px;
  align-items: baseline;
}
</style>
