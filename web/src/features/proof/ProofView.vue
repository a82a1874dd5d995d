<!-- The proof sheet: an effect on everybody, in any light, on any screen, at any moment. What stands out is said first, then shown. -->
<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import { save } from '../../api/files'
import type { Effect, HistoryStep, ProofChoices, ProofPlace, ProofSheet, ProofState } from '../../api/types'
import AxisChoice from './AxisChoice.vue'
import ProofCell from './ProofCell.vue'
import ProofTable from './ProofTable.vue'
import { useMessages } from '../messages/useMessages'
import { useEventListener } from '@vueuse/core'
import { useKeys } from '../workbench/useKeys'
import { useTracking } from '../cast/useTracking'
import { AXES, keyOf, placeAt, useProof, type Axis } from './useProof'
import { AXIS_NAMES, WAY_NAMES } from './naming'
import { t } from '../../words'

const props = defineProps<{ id: string }>()
const router = useRouter()
const { complain } = useMessages()

const memory = `proof ${props.id}`
interface Kept {
  sheet?: ProofSheet | undefined
  own?: { key: string; title: string }[]
}
const kept = JSON.parse(localStorage.getItem(memory) ?? '{}') as Kept
const choices = shallowRef<ProofChoices | null>(null)
const effect = shallowRef<Effect | null>(null)
const missing = ref('')
const own = ref(kept.own ?? [])
const sheet = shallowRef<ProofSheet | null>(null)
const steps = shallowRef<HistoryStep[]>([])
const comparing = ref('')
const asTable = ref(false)
const writing = ref('')
const lit = shallowRef<string[]>([])

const plain = shallowRef<ProofState>({ revision: null, without: null, bare: false })
const otherState = computed<ProofState>(() => {
  const [kind, which] = comparing.value.split(':', 2)
  return { revision: kind === 'revision' ? Number(which) : null, without: kind === 'without' ? (which ?? null) : null, bare: kind === 'bare' }
})
const otherSheet = computed(() => (comparing.value ? sheet.value : null))
/** The bare camera, looked at while B is held; its cells are made when it is first held. */
const holding = ref(false)
const wasHeld = ref(false)
const bareState = shallowRef<ProofState>({ revision: null, without: null, bare: true })
const bareSheet = computed(() => (wasHeld.value ? sheet.value : null))
const proof = useProof(props.id, sheet, plain, complain)
const bare = useProof(props.id, bareSheet, bareState, complain)
useKeys({ b: () => (holding.value = wasHeld.value = true) }, { b: () => (holding.value = false) })
useEventListener(window, 'blur', () => (holding.value = false))
const other = useProof(props.id, otherSheet, otherState, complain)
watch(proof.revision, async () => {
  effect.value = (await api.effect(props.id).catch(() => null))?.effect ?? effect.value
  steps.value = await api.history(props.id).catch(() => [])
})
watch([sheet, own], () => localStorage.setItem(memory, JSON.stringify({ sheet: sheet.value ?? undefined, own: own.value } satisfies Kept)), { deep: true })

onMounted(async () => {
  try {
    const [found, state] = await Promise.all([api.proofChoices(), api.effect(props.id)])
    choices.value = found
    effect.value = state.effect
    document.title = t('proof.title', { name: state.effect.name })
    sheet.value = kept.sheet ?? found.presets[0]?.sheet ?? null
  } catch (error) {
    missing.value = error instanceof Error ? error.message : String(error)
  }
})

const lists = computed<Record<Axis, { key: string; title: string }[]>>(() => ({
  who: [...(choices.value?.who ?? []), ...own.value],
  light: choices.value?.light ?? [],
  screen: choices.value?.screen ?? [],
  moment: choices.value?.moment ?? [],
}))
const titles = (axis: Axis, key: string): string => lists.value[axis].find((one) => one.key === key)?.title ?? key
const said = (axis: Axis): string => {
  const some = sheet.value?.[axis] ?? []
  return some.length === 1 ? titles(axis, some[0] ?? '') : String(some.length)
}
const stands = (axis: Axis): boolean => sheet.value?.down === axis || sheet.value?.across === axis
const preset = computed(() => choices.value?.presets.find((one) => JSON.stringify(one.sheet) === JSON.stringify(sheet.value))?.key ?? '')

function choosePreset(key: string): void {
  const found = choices.value?.presets.find((one) => one.key === key)
  if (found) sheet.value = found.sheet
}
function choose(axis: Axis, keys: string[]): void {
  if (sheet.value) sheet.value = { ...sheet.value, [axis]: keys }
}
function turn(way: 'down' | 'across', axis: Axis): void {
  if (!sheet.value) return
  const opposite = way === 'down' ? 'across' : 'down'
  sheet.value = { ...sheet.value, [way]: axis, ...(sheet.value[opposite] === axis ? { [opposite]: sheet.value[way] } : {}) }
}
async function addOwn(file: File): Promise<void> {
  try {
    const asset = await api.addFootage(file)
    const key = `own:${asset.hash}`
    if (!own.value.some((one) => one.key === key)) own.value = [...own.value, { key, title: asset.name }]
    choose('who', [...new Set([...(sheet.value?.who ?? []), key])])
  } catch (error) {
    complain(error)
  }
}

/** Own photos and clips on the sheet are looked through for people, one after the other; their cells come again with what was found. */
const footage = ref<string | null>(null)
const layers = computed(() => effect.value?.layers ?? [])
const seen = new Set<string>()
const tracking = useTracking(footage, layers, () => proof.renew('own:'), complain)
let looking = false
async function lookThrough(): Promise<void> {
  if (looking) return
  looking = true
  for (let next: string | undefined; (next = sheet.value?.who.find((key) => key.startsWith('own:') && !seen.has(key))); ) {
    seen.add(next)
    footage.value = next.slice('own:'.length)
    await nextTick()
    await tracking.start()
  }
  looking = false
}
watch(sheet, lookThrough)

/** Whether only heads are shown: where all look at the camera from the same distance, and there is no room for more. */
const heads = computed(() => sheet.value !== null && sheet.value[sheet.value.down].length > 2 && !stands('screen') && !stands('moment') && sheet.value.screen[0] === '9:16')
const shownAt = (key: string) => (holding.value && bare.cells.get(key)) || proof.cells.get(key)
const made = computed(() => proof.wanted.value.map((place) => proof.cells.get(keyOf(place))).filter((cell) => cell !== undefined))
const removable = computed(() => effect.value?.layers.filter((layer) => layer.on) ?? [])
const takes = computed(() => steps.value.filter((step) => !step.is_head && step.take))
const earlier = computed(() => steps.value.filter((step) => !step.is_head && !step.take).slice(0, 12))

/** The workbench, with the one who sits in this cell before its camera, in this light, at this moment. */
function open(place: ProofPlace): void {
  const moment = choices.value?.moment.find((one) => one.key === place.moment)
  const before = JSON.parse(localStorage.getItem(`sitting ${props.id}`) ?? '{}') as object
  if (!place.who.startsWith('own:')) localStorage.setItem(`sitting ${props.id}`, JSON.stringify({ ...before, who: place.who, light: place.light, script: moment?.script ?? 'talk' }))
  const view = JSON.parse(sessionStorage.getItem(`view ${props.id}`) ?? '{}') as object
  sessionStorage.setItem(`view ${props.id}`, JSON.stringify({ ...view, screen: place.screen, frame: moment?.frame ?? 0 }))
  void router.push(`/effects/${props.id}`)
}

async function write(form: 'pdf' | 'png' | 'json'): Promise<void> {
  if (!sheet.value || !effect.value) return
  writing.value = form
  try {
    const answer = await fetch(`/api/effects/${props.id}/proof/file?form=${form}`, {
      method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ sheet: sheet.value, state: plain.value }),
    }) // prettier-ignore
    if (!answer.ok) throw new Error(((await answer.json()) as { message: string }).message)
    save(`${effect.value.name} proof.${form}`, await answer.blob())
  } catch (error) {
    complain(error)
  } finally {
    writing.value = ''
  }
}
</script>

<template>
  <main class="proof">
    <header class="page-bar">
      <router-link class="word" :to="`/effects/${id}`">{{ t('proof.workbench') }}</router-link>
      <h1>{{ effect?.name }}</h1>
      <span class="second">{{ t('proof.proofSheet') }}</span>
      <span class="gap" />
      <template v-if="sheet && choices">
        <select class="field" :aria-label="t('proof.preset')" :value="preset" @change="choosePreset(($event.target as HTMLSelectElement).value)">
          <option value="" disabled>{{ t('proof.aSheetOfYourOwn') }}</option>
          <option v-for="one in choices.presets" :key="one.key" :value="one.key">{{ one.title }}</option>
        </select>
        <button v-for="form in (['pdf', 'png', 'json'] as const)" :key="form" class="act" :disabled="writing !== ''" @click="write(form)">{{ writing === form ? t('proof.writing') : form.toUpperCase() }}</button>
      </template>
    </header>
    <aside>
      <p v-if="missing" class="missing" role="alert">{{ missing }}</p>
      <template v-if="sheet && choices">
        <h2>{{ t('proof.whatStandsOut') }}</h2>
        <p v-if="proof.trouble.value" class="look" role="alert">{{ proof.trouble.value }} <button class="word" @click="proof.begin()">{{ t('proof.tryAgain') }}</button></p>
        <ul aria-live="polite">
          <li v-for="one in proof.words.value.said" :key="one.words" :class="{ look: one.look, about: one.cells.length }" @pointerenter="lit = one.cells" @pointerleave="lit = []">{{ one.words }}</li>
        </ul>
        <p v-if="tracking.state.running" class="second" role="status">{{ t('proof.findingPeople', { done: tracking.state.done, of: tracking.state.of }) }}</p>
        <p class="second" role="status">{{ t('proof.ofCells', { done: proof.done.value, of: proof.wanted.value.length }) }}</p>

        <h3>{{ t('proof.onTheSheet') }}</h3>
        <div class="axes">
          <AxisChoice v-for="axis in AXES" :key="axis" :title="AXIS_NAMES[axis]" :said="said(axis)" :choices="lists[axis]" :chosen="sheet[axis]" :several="stands(axis)" :files="axis === 'who'" @choose="choose(axis, $event)" @file="addOwn" />
        </div>
        <p class="ways">
          <label v-for="way in (['down', 'across'] as const)" :key="way">{{ WAY_NAMES[way] }}
            <select class="field" :value="sheet[way]" @change="turn(way, ($event.target as HTMLSelectElement).value as Axis)"><option v-for="axis in AXES" :key="axis" :value="axis">{{ AXIS_NAMES[axis].toLowerCase() }}</option></select>
          </label>
        </p>

        <h3>{{ t('proof.compareWith') }}</h3>
        <select v-model="comparing" class="field compare" :aria-label="t('proof.compareWith')">
          <option value="">{{ t('proof.nothing') }}</option>
          <option value="bare">{{ t('proof.theBareCamera') }}</option>
          <option v-for="layer in removable" :key="layer.id" :value="`without:${layer.id}`">{{ t('proof.without', { name: layer.name }) }}</option>
          <option v-for="step in takes" :key="step.revision" :value="`revision:${step.revision}`">{{ t('proof.take', { name: step.take }) }}</option>
          <option v-for="step in earlier" :key="step.revision" :value="`revision:${step.revision}`">{{ t('proof.asAfter', { gesture: step.gesture }) }}</option>
        </select>
        <p v-if="comparing" class="second">{{ other.trouble.value || t('proof.leftIsNow') }}</p>

        <h3>{{ t('proof.shownUnderEach') }}</h3>
        <p class="second legend">{{ t('proof.legendShift') }}<br />{{ t('proof.legendClipped') }}<br />{{ t('proof.legendContrast') }}</p>
        <p class="second legend">{{ holding ? t('proof.theBareCameraIsShown') : t('proof.holdB') }}</p>
        <button class="word" @click="asTable = !asTable">{{ asTable ? t('proof.asPrints') : t('proof.asTable') }}</button>
      </template>
    </aside>
    <ProofTable v-if="asTable" :cells="made" :outliers="proof.words.value.outliers" :titles="titles" @open="open" />
    <section v-else class="surround prints" :aria-label="t('proof.prints')">
      <div v-if="sheet" class="grid" :class="{ heads }" :style="{ '--columns': sheet[sheet.across].length }">
        <span v-for="column in sheet[sheet.across]" :key="column" class="over">{{ titles(sheet.across, column) }}</span>
        <template v-for="row in sheet[sheet.down]" :key="row">
          <h4>{{ titles(sheet.down, row) }}</h4>
          <button v-for="column in sheet[sheet.across]" :key="column" class="cell" :title="t('proof.openInTheWorkbench')" @click="open(placeAt(sheet, row, column))">
            <ProofCell
              :id="keyOf(placeAt(sheet, row, column))" :place="placeAt(sheet, row, column)" :title="`${titles(sheet.down, row)}, ${titles(sheet.across, column)}`" :cell="shownAt(keyOf(placeAt(sheet, row, column)))"
              :other="other.cells.get(keyOf(placeAt(sheet, row, column)))" :compared="comparing !== '' && !holding" :marks="proof.words.value.outliers[keyOf(placeAt(sheet, row, column))] ?? []"
              :lit="lit.includes(keyOf(placeAt(sheet, row, column)))" :heads="heads" />
          </button>
        </template>
      </div>
    </section>
  </main>
</template>

<style scoped>
.proof {
  display: grid;
  grid-template: 46px minmax(0, 1fr) / 300px minmax(0, 1fr);
  height: 100vh;
}
.second {
  color: var(--second);
}
aside {
  overflow: auto;
  padding: 26px 18px 30px;
  background: var(--paper);
}
h2 {
  font-size: 20px;
}
h3 {
  margin: 26px 0 6px;
}
ul {
  list-style: none;
  margin: 14px 0 16px;
  padding: 0;
}
li {
  margin-bottom: 12px;
}
.about {
  cursor: help;
}
.look,
.missing {
  color: var(--glaze);
}
.axes {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.ways {
  display: flex;
  gap: 16px;
  margin-top: 10px;
}
.compare {
  width: 100%;
}
.legend {
  margin-bottom: 12px;
}
.prints {
  overflow: auto;
  background: var(--surround);
  color: #fff;
  padding: 14px 20px 40px;
}
.grid {
  display: grid;
  grid-template-columns: minmax(46px, max-content) repeat(var(--columns), minmax(88px, 190px));
  gap: 10px 12px;
  align-items: start;
}
.over {
  font-weight: 650;
}
.over:first-child {
  grid-column: 2;
}
h4 {
  grid-column: 1;
  margin: 4px 0 0;
  font-weight: 650;
  font-size: 13px;
}
.cell {
  text-align: left;
}
</style>
