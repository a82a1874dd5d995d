<!-- The desk of the open layer: its name, how it is laid over the picture, its controls, and what helps to judge them. -->
<script lang="ts">
export type Tab = 'controls' | 'paint' | 'mask' | 'recipe'
</script>

<script setup lang="ts">
import { computed, defineAsyncComponent, nextTick, provide, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Asset, ColourReading, Control, Cost, Layer, LayerGroup, Layout, Plain } from '../../api/types'
import { useCatalogue } from '../../document/useCatalogue'
import { factsOf } from '../../document/material'
import { useMessages } from '../messages/useMessages'
import { DRIVE, MASK } from '../../document/address'
import { BLEND_GROUPS, driven, lookupOf, MASKED, ON, OPACITY, valueOf } from '../../document/layers'
import ChoiceControl from '../controls/ChoiceControl.vue'
import DrivenLine from './DrivenLine.vue'
import EverybodysFace from './EverybodysFace.vue'
import JudgingAids from './JudgingAids.vue'
import LooksBeside from './LooksBeside.vue'
import LookupCard from '../controls/LookupCard.vue'
import MaskSheet from './MaskSheet.vue'
import { useEyes } from '../picture/useEyes'
import { useAsset } from '../shelf/useAsset'
import { COMING } from '../shelf/useShelf'
import { t } from '../../words'

const CurvesControl = defineAsyncComponent(() => import('../controls/CurvesControl.vue'))
const HueCurves = defineAsyncComponent(() => import('../controls/HueCurves.vue'))
const PaintSheet = defineAsyncComponent(() => import('../paint/PaintSheet.vue'))

const props = defineProps<{
  layer: Layer
  trouble: string | null
  /** It looks for faces where none is known. */
  faceless: boolean
  busy: string | null
  tab: Tab
  stages: [string, string][]
  overlaid: boolean
  /** The group that the layer stands in. */
  group: LayerGroup | null
}>()
const emit = defineEmits<{
  turn: [control: string, value: Plain]
  commit: [gesture: string]
  set: [gesture: string, values: Partial<Layer>]
  setControl: [gesture: string, control: string, value: Plain]
  file: [file: File]
  rename: []
  tab: [tab: Tab]
  overlay: [on: boolean]
  changeGroup: [gesture: string, id: string, values: Partial<LayerGroup>]
  turnGroup: [id: string, control: string, value: Plain]
  openDrive: [control: string, title: string, group?: string]
}>()

/** The type of what is painted on the flat face. */
const PAINTING = 'painting'
/** The family whose layers are about colours alone, mostly. */
const GRADES = 'Grade'
/** The one whose layers cling to faces. */
const FACES = 'Face'

const { complain } = useMessages()
const reading = shallowRef<ColourReading | null>(null)
const { catalogue, kind, controls } = useCatalogue()
const lookup = computed(() => lookupOf(props.layer))
const asset = useAsset(() => lookup.value?.asset, complain)
/** Controls that have a line of their own; a grade has none before it has a lookup. */
const shown = computed(() => {
  if (props.layer.kind === 'lookup-grade' && !lookup.value) return []
  const curves = asset.value?.lookup?.kind !== 'cube'
  return controls(props.layer).filter(
    (one) => !catalogue.value?.types[one.type]?.large && one.type !== PAINTING && !(one.name === 'interpolation' && curves),
  )
})
const drawn = computed(() => controls(props.layer).filter((one) => catalogue.value?.types[one.type]?.large && one.type !== 'lookup'))
const { sitting, tile } = useEyes()
const settings = computed(() => kind(props.layer.kind)?.settings ?? [])
const looks = computed(() => props.layer.recipe?.looks ?? kind(props.layer.kind)?.looks ?? [])
const onFaces = computed(() => kind(props.layer.kind)?.family === FACES)
const painting = computed(() => controls(props.layer).find((one) => one.type === PAINTING))
const isPlain = computed(() => props.tab !== 'recipe' && props.tab !== 'mask' && !(props.tab === 'paint' && painting.value))
const coming = ref(0)
provide(COMING, coming)
const cost = shallowRef<Cost | null>(null)
const maskWords = computed(() => {
  const { mask } = props.layer
  if (!mask) return 'all'
  const found = catalogue.value?.masks.find((one) => one.kind === mask.kind)
  const which = mask.kind === 'region' ? String(mask.values.region ?? 'person') : (found?.name.toLowerCase() ?? mask.kind)
  return mask.values.over ? t('desk.outside', { which }) : which
})
const TABS = computed<[Tab, string][]>(() => [
  ['controls', 'Controls'],
  ...(painting.value ? [['paint', t('desk.paint')] as [Tab, string]] : []),
  ['mask', t('desk.mask', { maskWords: maskWords.value })],
  ['recipe', t('desk.recipe')],
])

watch(
  () => props.layer.kind,
  async (now) => {
    cost.value = null
    if (kind(now)) cost.value = await api.cost(now).catch(() => null)
  },
  { immediate: true },
)

/** A setting replaces what all controls stand at and what drives them, but neither the material that was chosen nor what switches the layer. */
function start(name: string, values: Record<string, Plain>, drives: Record<string, { kind: string; values?: Record<string, Plain> }>): void {
  const material = new Set(controls(props.layer).filter((one) => catalogue.value?.types[one.type]?.material).map((one) => one.name))
  const kept = Object.fromEntries(Object.entries(props.layer.values).filter(([control]) => material.has(control)))
  const stay = Object.fromEntries(Object.entries(props.layer.drives).filter(([control]) => control.startsWith(MASK) || [ON, MASKED, OPACITY].includes(control)))
  const moving = Object.fromEntries(Object.entries(drives).map(([control, one]) => [control, { kind: one.kind, values: one.values ?? {}, recipe: null }]))
  emit('set', `${props.layer.name}: ${name}`, { values: { ...values, ...kept }, drives: { ...stay, ...moving } })
}
function stands(values: Record<string, Plain>, drives: Record<string, unknown>): boolean {
  const moving = Object.keys(props.layer.drives).filter((control) => !control.includes(':'))
  if (moving.length !== Object.keys(drives).length || !moving.every((control) => control in drives)) return false
  return controls(props.layer).every((one) => {
    if (catalogue.value?.types[one.type]?.material) return true
    return JSON.stringify(valueOf(props.layer.values, one)) === JSON.stringify(valueOf(values as Layer['values'], one))
  })
}
/** The judging aids follow a grade's controls, a little behind the hand. */
const judged = computed(() => (kind(props.layer.kind)?.family === GRADES && (props.layer.kind !== 'lookup-grade' || lookup.value) ? props.layer : null))
let asked = 0
let timer = 0
const FOLLOW_MS = 350
watch(
  judged,
  (layer) => {
    window.clearTimeout(timer)
    const mine = ++asked
    if (!layer) {
      reading.value = null
      return
    }
    timer = window.setTimeout(
      async () => {
        // What cannot be judged now, because it is being changed or no server answers, leaves the last reading.
        const fresh = await api.judging(layer).catch(() => reading.value)
        if (mine === asked) reading.value = fresh
      },
      reading.value ? FOLLOW_MS : 0,
    )
  },
  { immediate: true },
)

/** What is chosen takes along what it needs to be seen, as the switch of a picture. */
function choose(control: Control, value: Plain, chosen?: Asset): void {
  const words = chosen ? ` ${chosen.name}` : typeof value === 'string' && value.length < 30 ? ` ${value}` : ''
  const also = value === null ? {} : { ...control.also, ...factsOf(chosen, control.facts) }
  emit('set', `${props.layer.name}: ${control.title}${words}`, { values: { ...props.layer.values, [control.name]: value, ...also } })
}

function blend(event: Event): void {
  const select = event.target as HTMLSelectElement
  emit('set', `Blend of ${props.layer.name}: ${select.selectedOptions[0]?.text ?? select.value}`, { blend: select.value })
}

function layout(which: Layout): void {
  if (lookup.value) emit('setControl', `Read the lookup of ${props.layer.name} as ${which}`, 'lookup', { ...lookup.value, layout: which })
}

function tabKey(event: KeyboardEvent): void {
  const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
  if (!step) return
  event.preventDefault()
  const all = TABS.value
  const next = all[(all.findIndex(([id]) => id === props.tab) + step + all.length) % all.length]
  if (next) emit('tab', next[0])
  const row = (event.currentTarget as HTMLElement).parentElement
  void nextTick(() => row?.querySelector<HTMLElement>('[aria-selected="true"]')?.focus())
}
</script>

<template>
  <section class="desk" :aria-label="t('desk.deskOf', { name: layer.name })">
    <header class="head">
      <h2 :title="t('desk.doubleClickRenameN')" @dblclick="emit('rename')">{{ layer.name }}</h2>
      <span class="tabs" role="tablist" :aria-label="t('desk.sheetsOf', { name: layer.name })">
        <button
          v-for="[id, title] in TABS" :key="id" role="tab" class="tabword" :aria-selected="id === tab" :tabindex="id === tab ? 0 : -1"
          @click="emit('tab', id)" @keydown="tabKey">
          {{ title }}
        </button>
      </span>
      <span class="gap" />
      <slot name="tools">
        <label class="blend">
          {{ t('desk.blend') }}
          <select class="field" :value="layer.blend" :aria-label="t('desk.blendMode')" @change="blend">
            <optgroup v-for="modes in BLEND_GROUPS" :key="modes.title" :label="modes.title">
              <option v-for="[mode, words] in modes.modes" :key="mode" :value="mode">{{ words }}</option>
            </optgroup>
          </select>
        </label>
      </slot>
      <slot name="menu" />
    </header>
    <p v-if="trouble" class="trouble" role="alert">{{ t('desk.theLastGoodPictureKeepsRunning', { trouble }) }}</p>
    <p v-else-if="faceless" class="rests" role="status">{{ t('desk.noFaceIsKnown') }}</p>
    <slot v-if="tab === 'recipe'" name="recipe" />
    <div v-else-if="tab === 'mask'" class="page">
      <MaskSheet
        :layer="layer" :stages="stages" :overlaid="overlaid" @turn="(control, value) => emit('turn', control, value)"
        @commit="emit('commit', $event)" @set="(gesture, values) => emit('set', gesture, values)" @open-drive="(part, title) => emit('openDrive', part, title)" @overlay="emit('overlay', $event)" />
    </div>
    <PaintSheet
      v-else-if="tab === 'paint' && painting" :layer="layer" :control="painting" @turn="(control, value) => emit('turn', control, value)" @commit="emit('commit', $event)"
      @put="(gesture, control, value) => emit('setControl', gesture, control, value)" />
    <div v-if="isPlain || coming" v-show="isPlain" class="columns page">
      <div class="controls">
        <p v-if="!kind(layer.kind) && !layer.recipe" class="help">
          {{ t('desk.thisLayerComesFromANewer') }}
        </p>
        <LookupCard
          v-if="layer.kind === 'lookup-grade'" :lookup="lookup" :asset="asset" :reading="reading" :busy="busy"
          @file="emit('file', $event)" @layout="layout"
          @remove="emit('setControl', `Take the lookup out of ${layer.name}`, 'lookup', null)" />
        <div class="rulers">
          <DrivenLine
            v-for="control in shown" :key="control.name" :control="control" :value="valueOf(layer.values, control)" :stages="stages"
            :drives="layer.drives" @drive="(part, title, drive) => emit('set', ...driven(layer, part, title, drive))" @open="(part, title) => emit('openDrive', part, title)"
            @turn-drive="(part, name, value) => emit('turn', `${DRIVE}${part}:${name}`, value)"
            @turn="emit('turn', control.name, $event)" @commit="emit('commit', `${control.title} of ${layer.name}`)"
            @choose="(plain, asset) => choose(control, plain, asset)" />
          <DrivenLine
            v-if="catalogue" :control="catalogue.opacity" :value="layer.opacity" :stages="stages" :drives="layer.drives"
            @drive="(part, title, drive) => emit('set', ...driven(layer, part, title, drive))" @open="(part, title) => emit('openDrive', part, title)"
            @turn-drive="(part, name, value) => emit('turn', `${DRIVE}${part}:${name}`, value)"
            @turn="emit('turn', OPACITY, $event)" @commit="emit('commit', `Opacity of ${layer.name}`)" />
          <DrivenLine
            v-if="catalogue" :control="catalogue.on" :value="1" :stages="stages" :drives="layer.drives" :still="t('desk.always')"
            @drive="(part, title, drive) => emit('set', ...driven(layer, part, title, drive))" @open="(part, title) => emit('openDrive', part, title)"
            @turn-drive="(part, name, value) => emit('turn', `${DRIVE}${part}:${name}`, value)" @commit="emit('commit', `${catalogue.on.title} of ${layer.name}`)" />
          <DrivenLine
            v-if="catalogue && group" :control="{ ...catalogue.on, title: t('desk.groupShown', { name: group.name }) }" :value="1" :stages="stages" :drives="group.drives" :still="t('desk.always')"
            @open="(part, title) => group && emit('openDrive', part, title, group.id)"
            @drive="(part, title, drive) => group && emit('changeGroup', driven(group, part, title, drive)[0], group.id, driven(group, part, title, drive)[1])"
            @turn-drive="(part, name, value) => group && emit('turnGroup', group.id, `${DRIVE}${part}:${name}`, value)" @commit="emit('commit', `${catalogue.on.title} of ${group?.name}`)" />
          <ChoiceControl
            v-if="layer.blend !== 'normal'" :name="t('desk.blendsIn')" :value="layer.light" :choices="['display', 'linear']"
            :words="{ display: t('desk.displayLight'), linear: t('desk.linearLight') }"
            @choose="emit('set', `${layer.name} blends in ${$event} light`, { light: $event === 'linear' ? 'linear' : 'display' })" />
        </div>
        <template v-if="settings.length">
          <h3 class="below">{{ t('desk.settingsToStartFrom') }}</h3>
          <div class="settings">
            <button
              v-for="(one, n) in settings" :key="one.name" class="setting" :aria-pressed="stands(one.values, one.drives)" @click="start(one.name, one.values, one.drives)">
              <img :src="`/api/layers/${layer.kind}/icon?setting=${n}&who=${sitting.who}&light=${sitting.light}`" alt="" width="64" height="64" loading="lazy" /><span>{{ one.name }}</span>
            </button>
          </div>
        </template>
        <p v-if="cost" class="cost">{{ t('desk.cost', { help: kind(layer.kind)?.help, words: cost.words }) }}</p>
      </div>
      <div v-if="drawn.length || reading || looks.length || onFaces" class="aside">
        <LooksBeside v-if="looks.length" :layer="layer.id" :looks="looks" />
        <template v-for="control in drawn" :key="control.name">
          <CurvesControl
            v-if="control.type === 'curves'" :name="control.title" :value="valueOf(layer.values, control)"
            @turn="emit('turn', control.name, $event)" @commit="emit('commit', `${control.title} of ${layer.name}`)" />
          <HueCurves
            v-else :name="control.title" :value="valueOf(layer.values, control)" :tones="reading?.tones.map((tone) => tone.before) ?? []"
            :under="() => tile(stages.at(-1)?.[0] ?? 'camera')"
            @turn="emit('turn', control.name, $event)" @commit="emit('commit', `${control.title} of ${layer.name}`)" />
        </template>
        <JudgingAids v-if="reading" :reading="reading" />
        <EverybodysFace v-if="onFaces" :layer="layer" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.desk {
  container-type: inline-size;
  display: flex;
  flex-direction: column;
  min-height: 100%;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 8px 14px;
  padding: 14px 18px 12px;
  flex-wrap: wrap;
}
.head h2 {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  max-width: 260px;
}
.tabs {
  display: flex;
  gap: 18px;
}
.tabword {
  color: var(--second);
  padding-bottom: 3px;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.tabword[aria-selected='true'] {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--glaze);
}
.gap {
  flex: 1;
}
.blend {
  white-space: nowrap;
}
.blend select {
  margin-left: 6px;
  font-weight: 650;
}
.trouble {
  color: var(--bad);
  font-weight: 650;
  padding: 0 18px 10px;
}
.rests {
  color: var(--glaze);
  padding: 0 18px 10px;
}
.page {
  padding: 6px 18px 24px;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 380px) minmax(0, 412px);
  gap: 24px 28px;
}
/* A wide desk gives its room to the rulers, and lays what helps to judge two abreast. */
@container (min-width: 1060px) {
  .columns {
    grid-template-columns: minmax(0, 520px) minmax(0, 1fr);
    gap: 24px 44px;
  }
  .aside {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
    gap: 26px 36px;
    align-items: start;
  }
}
@container (max-width: 720px) {
  .columns {
    grid-template-columns: minmax(0, 396px);
  }
}
.aside {
  display: flex;
  flex-direction: column;
  gap: 22px;
}
.below {
  margin: 18px 0 8px;
}
.settings {
  display: flex;
  flex-wrap: wrap;
  align-items: flex-start;
  gap: 12px 14px;
}
.setting {
  width: 68px;
  font-size: 12px;
  line-height: 1.25;
  text-align: center;
}
.setting img {
  display: block;
  width: 64px;
  height: 64px;
  margin: 0 auto 4px;
  outline: 1px solid var(--line);
}
.setting[aria-pressed='true'] img {
  outline: 2px solid var(--glaze);
}
.setting[aria-pressed='true'] {
  font-weight: 650;
}
.cost {
  margin-top: 16px;
  color: var(--faint);
  font-size: 12px;
}
.help {
  color: var(--second);
  max-width: 52ch;
}
</style>
