<!-- Where an effect is made: light enters at the left, passes the layers, and reaches the picture at the right. -->
<script setup lang="ts">
import { computed, defineAsyncComponent, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Effect, Plain } from '../../api/types'
import DeskSheet, { type Tab } from '../desk/DeskSheet.vue'
import DropOffer from '../shelf/DropOffer.vue'
import ShelfStrip from '../shelf/ShelfStrip.vue'
import EffectBar from './EffectBar.vue'
import HangingSheets, { type Hanging } from './HangingSheets.vue'
import LayerMenu from '../path/LayerMenu.vue'
import LightPath from '../path/LightPath.vue'
import PictureColumn from '../picture/PictureColumn.vue'
import TakesSheet from '../takes/TakesSheet.vue'
import { useCatalogue } from '../../document/useCatalogue'
import { useEffectDocument } from '../../document/useEffectDocument'
import { provideEyes } from '../picture/useEyes'
import { useBeside } from '../picture/useBeside'
import { useFaces } from '../picture/useFaces'
import { useGpu } from '../picture/useGpu'
import { useHandles } from '../handles/useHandles'
import { useKeys } from './useKeys'
import { useLayers } from '../../document/useLayers'
import { useLooking } from '../picture/useLooking'
import { useMaskOverlay } from '../desk/useMaskOverlay'
import { useClipping } from '../shelf/useClipping'
import { useMaterial } from '../shelf/useMaterial'
import { dropped as droppedFiles, pieceDragged } from '../shelf/useShelf'
import { withFiles } from '../../document/material'
import { CUE } from '../../document/address'
import { provideMotions } from '../motions/useMotions'
import { useScore } from '../motions/useScore'
import { useTrying } from '../motions/useTrying'
import { useMessages } from '../messages/useMessages'
import { useRealCamera } from '../cast/useRealCamera'
import { useOpenDrive, type OpenDrive } from '../recipe/useOpenDrive'
import { useRecipe } from '../recipe/useRecipe'
import { useSitting } from '../cast/useSitting'
import { useStream } from '../../stream/useStream'
import { useTracking } from '../cast/useTracking'
import { lacking } from '../../camera/camera'
import { t } from '../../words'

const MotionSheet = defineAsyncComponent(() => import('../motions/MotionSheet.vue'))
const RecipeSheet = defineAsyncComponent(() => import('../recipe/RecipeSheet.vue'))
const ShelfPage = defineAsyncComponent(() => import('../shelf/ShelfPage.vue'))
const ClipSheet = defineAsyncComponent(() => import('../shelf/ClipSheet.vue'))

const props = defineProps<{ id: string }>()
const { say, complain } = useMessages()
const stream = useStream()
const doc = useEffectDocument(props.id, { show: (now) => stream.show(laid.dressed(now)), remember: (now) => stream.remember(laid.dressed(now)), move, say, seen: stream.seen })
const { effect, state, layers, saving, savedAt } = doc
const loading = doc.load()
const sittings = useSitting(props.id, stream)
const real = useRealCamera(say)
const gpu = useGpu(stream, effect, sittings.sitting, real.camera)
const motions = provideMotions(doc)
const score = useScore(props.id, stream, gpu)
const trying = useTrying(doc, stream, gpu)
const looking = useLooking(props.id, stream, () => gpu.on.value, () => layers.value) // prettier-ignore
const { playing, bare, solo, asOf } = looking
provideEyes({ effect, sitting: sittings.sitting, screen: looking.screen, frame: () => stream.status.frame, tile: (stage) => stream.tiles.get(stage) ?? null })
watch(looking.muted, gpu.leaveOut)
watch([looking.screen, looking.size], ([screen, size]) => ((gpu.screen.value = screen), (gpu.size.value = size)), { immediate: true })
const { catalogue, kind, ports } = useCatalogue()
const work = useLayers(doc)
const { open, byId } = work
const laid = useMaskOverlay(stream, effect, open, kind)
const overlaid = laid.on
const material = useMaterial(doc, work)
// Whoever is chosen is seen: a picture of one's own or the real camera gives way.
watch(sittings.sitting, () => (real.stop(), material.standIn()))
const still = computed(() => effect.value?.still ?? null)
const faces = useFaces(stream, sittings.sitting, looking.screen, still, real.camera)
const tracking = useTracking(still, layers, renewed, complain)
/** Python and this device's GPU see what was tracked. */
function renewed(): void {
  if (effect.value) stream.show(laid.dressed(effect.value))
  gpu.reseat()
  faces.renew()
}
/** Masks that no camera but the stand-in gives: said when they are asked for. */
const missed = computed(() => {
  if (!real.camera.value && !still.value) return ''
  const regions = layers.value.filter((layer) => layer.on).map((layer) => layer.mask?.values.region)
  return lacking([...new Set([...gpu.masks.value, ...regions.flatMap((name) => (typeof name === 'string' && name !== 'person' ? [`region:${name}`] : []))])])
})
watch(missed, (words) => words && say(words))
const { trouble } = stream

const over = ref(false)
const [takesOpen, shelfOpen, motionsOpen] = [ref(false), ref(false), ref(false)]
const hanging = ref<Hanging | null>(null)
const takeCount = ref(0)
const { beside, who: whoBeside, ...besides } = useBeside(effect, sittings)
const flipped = ref(false)
const missing = ref('')
/** What today's rules refuse in what is stored of this effect. */
const faulty = ref<string[]>([])
const path = ref<InstanceType<typeof LightPath> | null>(null)
const column = ref<InstanceType<typeof PictureColumn> | null>(null)
const takes = ref<InstanceType<typeof TakesSheet> | null>(null)
const sheet = ref<InstanceType<typeof RecipeSheet> | null>(null)

const drive = useOpenDrive(effect, open)
const recipe = useRecipe(doc, open, ports, drive.control, drive.group)
watch(drive.gone, (gone) => gone && turnTo('controls'))

const TABS: Tab[] = ['controls', 'paint', 'mask', 'recipe']
const tab = computed<Tab>(() => TABS.find((one) => one === work.sheet.value) ?? 'controls')
function turnTo(next: Tab, driven: OpenDrive | null = null): void {
  drive.open.value = driven
  shelfOpen.value = motionsOpen.value = false
  work.turnTo(next === 'controls' ? null : next)
}
/** The pictures that a mask or node of the open layer may look at: those before it. */
const stages = computed<[string, string][]>(() => {
  const at = layers.value.findIndex((layer) => layer.id === open.value?.id)
  return [['camera', t('workbench.theBareCamera')], ...layers.value.slice(0, Math.max(0, at)).map((layer): [string, string] => [layer.id, layer.name])]
})
const saved = computed(() => {
  if (saving.value === 'saving') return t('workbench.saving')
  if (saving.value === 'waiting') return t('workbench.notSavedYetTryingAgain')
  if (saving.value === 'refused') return t('workbench.theLastChangeIsNotSaved')
  return savedAt.value ? t('workbench.saved', { toTimeString: savedAt.value.toTimeString().slice(0, 5) }) : ''
})
const note = computed(() => {
  if (flipped.value) return 'held: a take'
  if (trying.recording.value) return t('motions.whatYouDoIsRecorded')
  if (trying.rehearsing.value) return t('motions.theRehearsalPlays')
  if (trying.trying.value) return t('motions.fingersAreTheWearers')
  if (stream.note.value) return stream.note.value
  if (tracking.state.running) return t('workbench.peopleAreLookedForUntilThen')
  if (overlaid.value) return t('workbench.maskLaidOver')
  if (solo.value) return t('workbench.only', { name: byId(solo.value)?.name ?? '' })
  if (real.camera.value && (looking.scope.value || looking.probing.value || looking.clipping.value)) return t('workbench.scopesProbeAndClipReadThe')
  if (asOf.value) return asOf.value === 'camera' ? t('workbench.theCamera') : t('workbench.after', { name: byId(asOf.value)?.name ?? '' })
  return ''
})

watch(tab, () => overlaid.value && laid.show(false))
/** A take that is held to compare, and the bare camera, are seen as they are. */
const plain = computed(() => bare.value || flipped.value)
const handles = useHandles({
  doc, stream, open, tab, bare: plain, node: () => (recipe.path.value.length || recipe.chosen.value.size !== 1 ? null : [...recipe.chosen.value][0] ?? null),
  show: (layer) => (turnTo('controls'), void work.show(layer)),
}) // prettier-ignore
watch([looking.scope, looking.clipping, looking.probing, overlaid], (all) => (gpu.away.value = all.some(Boolean)), { immediate: true })

function move(layer: string, control: string, value: Plain): void {
  gpu.move(layer, control, value)
  stream.move(layer, control, value)
  if (whoBeside.value) column.value?.move(layer, control, value)
  laid.move(layer, control, value)
}

onMounted(async () => {
  try {
    await loading
    const { problems = [] } = state.value ?? {}
    if (problems.length) faulty.value = problems
  } catch (error) {
    missing.value = error instanceof Error ? error.message : String(error)
  }
})
watch(effect, (now) => (document.title = now ? t('workbench.sunGlaze', { name: now.name }) : 'Sun Glaze'))

// ---- takes ----
function flip(take: Effect | null): void {
  flipped.value = take !== null
  if (take ?? effect.value) stream.show(take ?? laid.dressed(effect.value as Effect))
}
async function goBack(revision: number): Promise<void> {
  await doc.goBackTo(revision)
  say(t('workbench.theEffectIsAsItWas'), { label: t('workbench.undo2'), run: () => void doc.undo() })
}

function act(name: 'rename' | 'group' | 'duplicate' | 'copy' | 'paste' | 'solo' | 'remove'): void {
  const id = open.value?.id
  if (!id) return
  if (name === 'rename') path.value?.rename(id)
  else if (name === 'group') path.value?.group(id)
  else if (name === 'paste') work.paste()
  else if (name === 'solo') soloed(id)
  else work[name](id)
}
function soloed(id: string): void {
  solo.value = solo.value === id ? null : id
}

async function dropped(event: DragEvent, onDesk: boolean): Promise<void> {
  over.value = false
  const piece = pieceDragged(event.dataTransfer)
  if (piece) {
    const uses = material.usesOf(piece)
    const use = (piece.kind === 'lookup' ? undefined : uses.find((one) => one.id === 'overlay')) ?? uses[0]
    if (use) await material.usePiece(piece, use.id)
  } else await material.takeAll(await droppedFiles(event.dataTransfer), onDesk ? open.value : null)
}

// ---- the shelf, and clips that become sequences ----
const clip = useClipping(doc, open, work.openLast, (draft) => stream.show(laid.dressed(draft)), () => (shelfOpen.value = motionsOpen.value = false), looking.screen)
const replaceFiles = (gesture: string, by: Map<string, string>) => doc.change(gesture, (draft) => withFiles(draft, by))
watch(() => open.value?.id, () => (shelfOpen.value = motionsOpen.value = false)) // prettier-ignore

/** A threshold that is drawn belongs to a cue; of a kind by itself, a cue of the effect's own is made of it first. */
function threshold(cue: string, value: Plain): void {
  doc.turn('', `${CUE}${motions.owned(cue)}:threshold`, value)
}
const cueName = (id: string) => effect.value?.cues.find((one) => one.id === id)?.name ?? id
const ENDS = { zero: t('motions.dialsAtZero'), full: t('motions.dialsAtFull'), start: t('motions.dialsAsTheyStart') }
let dialsAt: keyof typeof ENDS = 'start'

useKeys(
  {
    b: () => (bare.value = true),
    j: () => takes.value?.flipLatest(),
    g: gpu.toggle,
    w: looking.toggleWipe,
    s: () => looking.nextScreen(),
    z: () => column.value?.zoom(),
    'shift+h': handles.toggle,
    h: looking.nextScope,
    i: () => (looking.probing.value = !looking.probing.value),
    c: () => (looking.clipping.value = !looking.clipping.value),
    v: looking.nextSpeed,
    e: () => sittings.next('who'),
    'shift+e': () => sittings.next('who', -1),
    r: () => sittings.next('script'),
    l: () => sittings.next('light'),
    u: sittings.turn,
    'shift+u': besides.next,
    q: faces.toggle,
    k: () => takes.value?.keep(),
    y: () => (takesOpen.value = !takesOpen.value),
    a: () => path.value?.add(),
    d: () => open.value && work.duplicate(open.value.id),
    x: () => open.value && soloed(open.value.id),
    1: () => turnTo('controls'),
    2: () => turnTo('mask'),
    3: () => turnTo('recipe'),
    4: () => ((motionsOpen.value = false), (shelfOpen.value = !shelfOpen.value)),
    5: () => ((shelfOpen.value = false), (motionsOpen.value = !motionsOpen.value)),
    f: () => tab.value !== 'recipe' && trying.toggle(),
    'shift+f': score.toggle,
    0: () => tab.value !== 'recipe' && (dialsAt = trying.nextEnd()),
    escape: () => (hanging.value ? (hanging.value = null) : trying.trying.value ? trying.toggle() : motionsOpen.value ? (motionsOpen.value = false) : shelfOpen.value ? (shelfOpen.value = false) : column.value?.escape()),
    'shift+?': () => (hanging.value = 'keys'),
    '?': () => (hanging.value = 'keys'),
    space: () => (playing.value = !playing.value),
    ',': () => looking.step(-1),
    '.': () => looking.step(1),
    'ctrl+z': () => void doc.undo(),
    'ctrl+shift+z': () => void doc.redo(),
  },
  { b: () => (bare.value = false), j: () => takes.value?.letGo() },
  {
    space: () => (playing.value ? 'plays' : 'paused'),
    ',': () => t('workbench.oneFrameBackPaused'),
    '.': () => t('workbench.oneFrameOnPaused'),
    g: () => (gpu.wanted.value ? t('workbench.renderedOnThisDevicesGpu') : t('workbench.renderedByPython')),
    w: () => (looking.wipe.value === null ? t('workbench.noWipe') : 'wipe: bare at the left'),
    s: () => t('workbench.screen', { screen: looking.screen.value }),
    z: () => 'zoomed',
    'shift+h': () => (handles.on.value ? t('workbench.handlesOnThePicture2') : t('workbench.noHandlesOnThePicture')),
    h: () => looking.scope.value ?? t('workbench.noScope'),
    i: () => (looking.probing.value ? 'probe: point at the picture' : t('workbench.noProbe')),
    c: () => (looking.clipping.value ? t('workbench.whatIsCutOffIsMarked') : t('workbench.noMarks')),
    v: () => t('workbench.ofTheSpeed', { value: looking.speed.value * 100 }),
    q: () => (faces.on.value ? t('workbench.pointsOfFaces2') : t('workbench.noPointsOfFaces')),
    x: () => (solo.value ? t('workbench.onlyIsShown', { name: byId(solo.value)?.name ?? '' }) : t('workbench.allLayersAreShown')),
    d: () => [t('workbench.duplicatedIsOpen', { name: open.value?.name ?? '' }), { label: t('workbench.undo2'), run: () => void doc.undo() }],
    u: () => t('workbench.theOtherCamera2'),
    1: () => 'controls',
    2: () => 'mask',
    3: () => 'recipe',
    4: () => (shelfOpen.value ? t('workbench.theShelf') : t('workbench.theDesk')),
    5: () => (motionsOpen.value ? t('motions.cuesAndDials') : t('workbench.theDesk')),
    f: () => (tab.value === 'recipe' ? '' : trying.trying.value ? t('motions.fingersAreTheWearers') : t('motions.fingersAreYours')),
    'shift+f': () => (!score.listens.value ? t('motions.listensToNothing') : score.on.value ? t('motions.score') : t('motions.noScore')),
    0: () => (tab.value === 'recipe' ? '' : trying.worn.value.length ? ENDS[dialsAt] : t('motions.noDials')),
    'ctrl+z': () => (state.value?.undo ? t('workbench.takesBack', { undo: state.value.undo }) : t('workbench.nothingToUndo2')),
    'ctrl+shift+z': () => (state.value?.redo ? `again: ${state.value.redo}` : t('workbench.nothingToRedo2')),
  },
)

const letGo = () => (bare.value = false)
window.addEventListener('blur', letGo)
onBeforeUnmount(() => window.removeEventListener('blur', letGo))
</script>

<template>
  <main v-if="missing" class="missing">
    <h1>{{ t('workbench.thisEffectCannotBeOpened') }}</h1>
    <p>{{ missing }}. <router-link class="word" to="/">{{ t('workbench.allEffects') }}</router-link></p>
  </main>
  <main v-else class="bench" :class="{ wide: looking.screen.value === '16:9', pair: beside }">
    <div class="left" :class="{ over }" @dragover.prevent="over = true" @dragleave.self="over = false">
      <EffectBar
        :id="id" v-model:takes-open="takesOpen" :name="effect?.name ?? ''" :saved="saved" :saving="saving" :undo="state?.undo ?? null" :redo="state?.redo ?? null"
        :takes="takeCount" :settled="doc.settled" @named="(name) => doc.change(t('workbench.renameTo', { name }), (draft) => (draft.name = name))"
        @undo="doc.undo()" @redo="doc.redo()" @hang="hanging = $event" @keep="takes?.keep()" />
      <LightPath
        ref="path" :layers="layers" :kinds="catalogue?.layers ?? []" :open="open?.id ?? null" :tiles="stream.tiles" :troubled="trouble?.layer ?? null"
        :groups="effect?.groups ?? []" :solo="solo" :screen="looking.screen.value" @open="work.show" @switch="work.toggle" @reorder="work.reorder" @add="work.addKind"
        @remove="work.remove" @duplicate="work.duplicate" @copy="work.copy" @paste="work.paste" @soloed="soloed" @as-of="asOf = $event"
        @rename="work.rename" @group="work.group" @change-group="work.changeGroup" @move-group="work.moveGroup" @ungroup="work.ungroup"
        @drop.prevent="dropped($event, false)" />
      <section v-if="faulty.length" class="faulty" role="alert">
        <p>
          <b>{{ t('workbench.notAllOfWhatWasStored') }}</b> {{ t('workbench.whatYouSeeIsWhatCould') }} <a class="word" :href="`/api/effects/${id}/document`" :download="`${effect?.name ?? id}.json`">{{ t('workbench.downloadItAsStored') }}</a>
          <button class="word" @click="faulty = []">{{ t('workbench.close') }}</button>
        </p>
        <ul>
          <li v-for="words in faulty" :key="words">{{ words }}</li>
        </ul>
      </section>
      <div class="paper" @drop.prevent="dropped($event, true)">
        <ClipSheet v-if="clip.now.value" :key="clip.now.value.asset.hash" :clip="clip.now.value.asset" :as="clip.as.value" :used="clip.used.value" @look="clip.lookAt" @use="clip.use" @close="clip.close" />
        <MotionSheet v-else-if="motionsOpen && effect" :doc="doc" :effect="effect" :score="score" :trying="trying" @close="motionsOpen = false" />
        <ShelfPage
          v-else-if="shelfOpen" :uses-of="material.usesOf" @use="(piece, id) => ((shelfOpen = false), void material.usePiece(piece, id))" @cut="clip.open($event.asset)"
          @look="material.usePiece($event, 'camera')" @changed="doc.load" @close="shelfOpen = false" />
        <template v-else>
        <p v-if="over" class="hint" role="status">
          {{ t('workbench.dropALookup', { which: open?.kind === 'lookup-grade' ? t('workbench.forHereOrOnThePath', { name: open.name }) : t('workbench.orAPictureItIsAsked') }) }}
        </p>
        <p v-if="trouble && !trouble.layer" class="hint" role="alert">
          {{ trouble.message }}
          <button v-if="effect" class="word" @click="stream.show(laid.dressed(effect))">{{ t('workbench.tryItAgain') }}</button>
        </p>
        <DeskSheet
          v-if="open" :key="open.id" :layer="open" :busy="material.busy.value" :tab="tab" :stages="stages" :overlaid="overlaid"
          :trouble="trouble?.layer === open.id ? trouble.message : null" :faceless="stream.faceless.value.includes(open.id) && !real.camera.value && !tracking.state.running"
          :group="effect?.groups.find((one) => one.id === open?.group) ?? null" @tab="turnTo($event)" @open-drive="(control, title, group) => turnTo('recipe', [control, title, group])"
          @overlay="laid.show" @turn="(control, value) => open && doc.turn(open.id, control, value)" @commit="doc.commit" @set="work.set"
          @set-control="work.setControl" @change-group="work.changeGroup" @turn-group="doc.turn"
          @file="material.take($event, open)" @rename="path?.rename(open.id)">
          <template v-if="tab === 'recipe'" #tools>
            <button class="act" title="F" @click="sheet?.find()">{{ t('workbench.findANode') }}</button>
            <button class="act" title="T" @click="sheet?.tidy()">{{ t('workbench.tidy') }}</button>
            <button class="act" title="P" @click="sheet?.pack()">{{ t('workbench.pack') }}</button>
            <button class="word" @click="sheet?.list()">{{ t('workbench.controls') }}</button>
            <v-menu>
              <template #activator="{ props: activator }"><button v-bind="activator" class="word">{{ t('workbench.file') }}</button></template>
              <div class="sheet menu-list" role="menu" :aria-label="t('workbench.fileOfTheRecipe')">
                <button role="menuitem" @click="sheet?.importFile()">{{ t('workbench.readARecipe') }}</button>
                <button role="menuitem" @click="sheet?.exportFile('json')">{{ t('workbench.saveAsJson') }}</button>
                <button role="menuitem" @click="sheet?.exportFile('mtlx')">{{ t('workbench.saveAsMaterialx') }}</button>
              </div>
            </v-menu>
          </template>
          <template #recipe>
            <RecipeSheet
              v-if="ports && catalogue" ref="sheet" :key="drive.open.value?.join() ?? ''" :holder="drive.holder.value?.id ?? ''" :work="recipe" :ports="ports" :kinds="catalogue.nodes"
              :stages="stages" :drive="drive.control.value" :title="drive.title.value" />
          </template>
          <template #menu><LayerMenu :soloed="solo === open.id" @act="act" /></template>
        </DeskSheet>
        <section v-else-if="effect" class="blank">
          <h2>{{ t('workbench.theCameraPassesAsItIs') }}</h2>
          <p>{{ t('workbench.dropAGradedLookupAnywhereHere') }}</p>
          <p class="acts">
            <button class="act" @click="work.add('lookup-grade')">{{ t('workbench.addALookupGrade') }}</button>
            <button class="act" @click="path?.add()">{{ t('workbench.chooseALayer') }}</button>
          </p>
          <p v-if="material.busy.value" role="status">{{ t('workbench.reading', { busy: material.busy.value }) }}</p>
        </section>
        </template>
      </div>
      <ShelfStrip
        v-model="shelfOpen" v-model:motions="motionsOpen" :effect="id" :weight="state?.weight ?? 0" :cues="effect?.cues.length ?? 0" :dials="effect?.dials.length ?? 0"
        @weigh="hanging = hanging === 'weight' ? null : 'weight'" />
      <DropOffer :piece="material.offered.value?.piece ?? null" :unsure="material.offered.value?.unsure ?? false" :uses="material.uses.value" @choose="material.useAs" @close="material.offered.value = null" />
      <HangingSheets
        v-if="effect" :id="id" v-model="hanging" :effect="effect" :layers="layers" :screen="looking.screen.value" :sitting="sittings.sitting.value"
        :weight="state?.weight ?? 0" :settled="doc.settled" @show="work.show" @tidy="work.removeOff()" @replace="replaceFiles" />
      <TakesSheet
        :id="id" ref="takes" v-model="takesOpen" :revision="state?.revision ?? 0" :settled="doc.settled" @flip="flip" @back="goBack"
        @beside="(name, take) => besides.show(name, take)" @count="takeCount = $event" />
    </div>
    <PictureColumn
      ref="column" :stream="stream" :gpu="gpu" :looking="looking" :sittings="sittings" :real="real" :name="effect?.name ?? ''" :still="effect?.still ?? null"
      :still-name="material.stillName.value" :beside="beside" :beside-who="whoBeside" :note="note" :faces="faces" :tracking="tracking" :handles="handles"
      :score="score" :trying="trying" :cues="effect?.cues ?? []" @threshold="threshold" @commit="doc.commit(t('motions.changeTheCue', { name: cueName($event) }))"
      @picture="material.lookAt" @stand-in="material.standIn" @end-beside="besides.stand(null)" @beside-who="besides.stand" />
  </main>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) clamp(340px, 33.4vw, 660px);
  height: 100vh;
}
.faulty {
  padding: 10px 18px;
  max-height: 30%;
  overflow: auto;
  color: var(--bad);
  border-bottom: 1px solid var(--line);
}
.faulty ul {
  margin: 4px 0 0 18px;
}
/* Two pictures side by side get nearly half of the page, as far as the bar of the effect leaves room. */
.bench.pair {
  grid-template-columns: minmax(0, 1fr) clamp(340px, 46vw, 100vw - 672px);
}
.bench.wide {
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: minmax(0, 54vh) minmax(0, 1fr);
}
.bench.wide > :deep(.surround) {
  grid-row: 1;
}
.left {
  position: relative;
  display: grid;
  grid-template: 46px auto auto minmax(0, 1fr) auto / minmax(0, 1fr);
  min-height: 0;
}
.paper {
  grid-row: 4;
  display: flex;
  flex-direction: column;
  background: var(--paper);
  overflow: auto;
}
.paper > :deep(.desk) {
  flex: 1;
}
.left.over .paper {
  box-shadow: inset 0 0 0 2px var(--ink);
}
.hint {
  padding: 12px 18px 0;
  font-weight: 650;
}
.blank {
  padding: 40px 28px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.acts {
  display: flex;
  gap: 12px;
  margin-top: 8px;
}
.missing {
  padding: 48px 28px;
}
</style>
