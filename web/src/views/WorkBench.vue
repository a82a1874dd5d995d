<!-- Where an effect is made: light enters at the left, passes the layers, and reaches the picture at the right. -->
<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '../api/client'
import type { Layer, Package, Plain } from '../api/types'
import DeskSheet from '../components/DeskSheet.vue'
import LightPath from '../components/LightPath.vue'
import PictureColumn from '../components/PictureColumn.vue'
import PublishSheet from '../components/PublishSheet.vue'
import { useCatalogue } from '../composables/useCatalogue'
import { useEffectDocument } from '../composables/useEffectDocument'
import { useGpu } from '../composables/useGpu'
import { useKeys } from '../composables/useKeys'
import { useMessages } from '../composables/useMessages'
import { useStream } from '../composables/useStream'
import { nameOfFile, newLayer } from '../effect/layers'

const props = defineProps<{ id: string }>()
const route = useRoute()
const router = useRouter()
const { say, complain } = useMessages()
const stream = useStream()
const doc = useEffectDocument(props.id, { show: stream.show, remember: stream.remember, move, say })
const { effect, state, layers, saving, savedAt } = doc
const gpu = useGpu(stream, effect)
function move(layer: string, control: string, value: Plain): void {
  gpu.move(layer, control, value)
  stream.move(layer, control, value)
}
const { trouble } = stream
const { catalogue, kind } = useCatalogue()

const playing = ref(true)
const bare = ref(false)
const wipe = ref<number | null>(null)
const over = ref(false)
const busy = ref<string | null>(null)
const publishing = ref(false)
const published = shallowRef<Package | null>(null)
const publishedOpen = ref(false)
const naming = ref(false)
const stillName = ref<string | null>(null)
const missing = ref('')
const path = ref<InstanceType<typeof LightPath> | null>(null)
const desk = ref<InstanceType<typeof DeskSheet> | null>(null)
const column = ref<InstanceType<typeof PictureColumn> | null>(null)

const openId = computed(() => (typeof route.query.layer === 'string' ? route.query.layer : null))
const openLayer = computed(() => layers.value.find((layer) => layer.id === openId.value) ?? layers.value[0] ?? null)
const saved = computed(() => {
  if (saving.value === 'saving') return 'saving …'
  if (saving.value === 'waiting') return 'not saved yet: no answer, trying again'
  return savedAt.value ? `saved ${savedAt.value.toTimeString().slice(0, 5)}` : ''
})

onMounted(async () => {
  try {
    await doc.load()
  } catch (error) {
    missing.value = error instanceof Error ? error.message : String(error)
  }
  restoreView()
})

watch(effect, (now) => (document.title = now ? `${now.name} · Sun Glaze` : 'Sun Glaze'))
watch(
  () => effect.value?.still ?? null,
  async (hash) => {
    stillName.value = hash ? ((await api.asset(hash).catch(() => null))?.name ?? null) : null
  },
)

// A reload comes back to the same place: open layer by the address, the rest by the tab's own memory.
const MEMORY = `view ${props.id}`
function restoreView(): void {
  const kept = JSON.parse(sessionStorage.getItem(MEMORY) ?? '{}') as { frame?: number; wipe?: number | null }
  if (kept.wipe !== undefined) wipe.value = kept.wipe
  if (kept.frame !== undefined) {
    playing.value = false
    stream.setView({ playing: false, frame: kept.frame })
  }
}
watch([playing, wipe, () => (playing.value ? -1 : stream.status.frame)], () => {
  const frame = playing.value ? {} : { frame: stream.status.frame }
  sessionStorage.setItem(MEMORY, JSON.stringify({ wipe: wipe.value, ...frame }))
})

watch(playing, (now) => stream.setView({ playing: now }))
// On the GPU the stream brings the bare camera, and the page does what bare and wipe do.
watch([bare, gpu.on], () => stream.setView({ bare: bare.value || gpu.on.value }))
watch([wipe, gpu.on], () => stream.setView({ wipe: gpu.on.value ? 0 : (wipe.value ?? 0) }))

async function open(id: string): Promise<void> {
  await router.replace({ query: { layer: id } })
}

function byId(id: string): Layer | undefined {
  return layers.value.find((layer) => layer.id === id)
}

function toggle(id: string): void {
  const layer = byId(id)
  if (!layer) return
  doc.turn(id, 'on', !layer.on)
  doc.commit(`Switch ${layer.name} ${layer.on ? 'off' : 'on'}`)
}

function reorder(id: string, to: number): void {
  doc.change(`Move ${byId(id)?.name ?? 'layer'}`, (draft) => {
    const from = draft.layers.findIndex((layer) => layer.id === id)
    draft.layers.splice(to, 0, ...draft.layers.splice(from, 1))
  })
}

function insert(layer: Layer): void {
  doc.change(`Add ${layer.name}`, (draft) => {
    const after = openLayer.value ? draft.layers.findIndex((one) => one.id === openLayer.value?.id) : -1
    draft.layers.splice(after < 0 ? draft.layers.length : after + 1, 0, layer)
  })
  void open(layer.id)
}

function add(name: string, called?: string, values?: Layer['values']): void {
  const found = kind(name)
  if (found) insert(newLayer(found, called, values))
}

function remove(id: string): void {
  const layer = byId(id)
  if (!layer) return
  doc.change(`Remove ${layer.name}`, (draft) => (draft.layers = draft.layers.filter((one) => one.id !== id)))
  say(`Removed ${layer.name}.`, { label: 'Undo', run: () => void doc.undo() })
}

function set(gesture: string, values: Partial<Layer>): void {
  const id = openLayer.value?.id
  doc.change(gesture, (draft) => {
    const layer = draft.layers.find((one) => one.id === id)
    if (layer) Object.assign(layer, values)
  })
}

function setControl(gesture: string, control: string, value: Plain): void {
  const layer = openLayer.value
  if (layer) set(gesture, { values: { ...layer.values, [control]: value } })
}

/** A lookup file: onto the open grade where it was dropped on its desk, as a new grade where on the path. */
async function takeLookup(file: File, into: Layer | null): Promise<void> {
  busy.value = file.name
  try {
    const asset = await api.addLookup(file)
    const lookup = { asset: asset.hash, layout: null }
    if (into?.kind === 'lookup-grade') {
      doc.change(`Lookup ${file.name}`, (draft) => {
        const layer = draft.layers.find((one) => one.id === into.id)
        if (!layer) return
        if (layer.name === 'Lookup grade') layer.name = nameOfFile(file.name)
        layer.values.lookup = lookup
      })
    } else {
      add('lookup-grade', nameOfFile(file.name), { lookup })
    }
    if (asset.lookup?.damaged)
      say(`${file.name} shows damage of a lossy file${asset.lookup.noise === null ? '' : ` (noise ${asset.lookup.noise.toFixed(4)})`}. It is used, but colours will shift and band: export it again as PNG.`)
    else if (asset.lookup && !asset.lookup.sure) say(`${file.name} fits two layouts; it was read as ${asset.lookup.found}. The desk can change that.`)
  } catch (error) {
    complain(error)
  } finally {
    busy.value = null
  }
}

async function dropped(event: DragEvent, onDesk: boolean): Promise<void> {
  over.value = false
  const files = [...(event.dataTransfer?.files ?? [])]
  for (const [n, file] of files.entries()) await takeLookup(file, onDesk && n === 0 ? openLayer.value : null)
}

async function takePicture(file: File): Promise<void> {
  try {
    const asset = await api.addPicture(file)
    doc.change(`Look at ${file.name}`, (draft) => (draft.still = asset.hash))
  } catch (error) {
    complain(error)
  }
}

function standIn(): void {
  if (effect.value?.still) doc.change('Look at the stand-in camera', (draft) => (draft.still = null))
}

async function publish(): Promise<void> {
  publishing.value = true
  try {
    await doc.settled()
    published.value = await api.publish(props.id)
    publishedOpen.value = true
  } catch (error) {
    complain(error)
  } finally {
    publishing.value = false
  }
}

async function rename(): Promise<void> {
  naming.value = true
  await nextTick()
  document.querySelector<HTMLInputElement>('.effect-name')?.select()
}

function named(event: Event): void {
  if (!naming.value) return
  naming.value = false
  const name = (event.target as HTMLInputElement).value.trim().slice(0, 80)
  if (name && name !== effect.value?.name) doc.change(`Rename to ${name}`, (draft) => (draft.name = name))
}

useKeys(
  {
    b: () => (bare.value = true),
    g: gpu.toggle,
    w: () => (wipe.value = wipe.value === null ? 0.38 : null),
    a: () => path.value?.add(),
    space: () => (playing.value = !playing.value),
    ',': () => column.value?.step(-1),
    '.': () => column.value?.step(1),
    'ctrl+z': () => void doc.undo(),
    'ctrl+shift+z': () => void doc.redo(),
  },
  { b: () => (bare.value = false) },
)

const letGo = () => (bare.value = false)
window.addEventListener('blur', letGo)
onBeforeUnmount(() => window.removeEventListener('blur', letGo))
</script>

<template>
  <main v-if="missing" class="missing">
    <h1>This effect cannot be opened</h1>
    <p>{{ missing }}. <router-link class="word" to="/">All effects</router-link></p>
  </main>
  <main v-else class="bench">
    <div class="left" :class="{ over }" @dragover.prevent="over = true" @dragleave.self="over = false">
      <header class="bar">
        <router-link class="word" to="/" title="All effects">Effects</router-link>
        <input
          v-if="naming" class="field effect-name" :value="effect?.name" maxlength="80" aria-label="Name of the effect"
          @keydown.enter="named" @keydown.esc="naming = false" @blur="named" />
        <h1 v-else @dblclick="rename"><button title="Rename" @click="rename">{{ effect?.name ?? ' ' }}</button></h1>
        <span class="saved" role="status" :class="{ waiting: saving === 'waiting' }">{{ saved }}</span>
        <span class="gap" />
        <button class="word" :disabled="!state?.undo" :title="state?.undo ? `Undo: ${state.undo}` : 'Nothing to undo'" @click="doc.undo()">Undo</button>
        <button class="word" :disabled="!state?.redo" :title="state?.redo ? `Redo: ${state.redo}` : 'Nothing to redo'" @click="doc.redo()">Redo</button>
        <button class="act main" :disabled="publishing" @click="publish">{{ publishing ? 'Packing …' : 'Publish' }}</button>
      </header>
      <LightPath
        ref="path" :layers="layers" :kinds="catalogue?.layers ?? []" :open="openLayer?.id ?? null" :tiles="stream.tiles" :troubled="trouble?.layer ?? null"
        @open="open" @switch="toggle" @reorder="reorder" @add="insert(newLayer($event))" @remove="remove"
        @rename="open($event).then(() => desk?.rename())" @drop.prevent="dropped($event, false)" />
      <div class="paper" @drop.prevent="dropped($event, true)">
        <p v-if="over" class="hint" role="status">
          Drop a lookup {{ openLayer?.kind === 'lookup-grade' ? `for ${openLayer.name} here, or on the path for a new layer` : 'to add a grade' }}
        </p>
        <p v-if="trouble && !trouble.layer" class="hint" role="alert">{{ trouble.message }}</p>
        <DeskSheet
          v-if="openLayer" :key="openLayer.id" ref="desk" :layer="openLayer" :busy="busy"
          :trouble="trouble?.layer === openLayer.id ? trouble.message : null"
          @turn="(control, value) => openLayer && doc.turn(openLayer.id, control, value)" @commit="doc.commit" @set="set" @set-control="setControl"
          @file="takeLookup($event, openLayer)" @remove="openLayer && remove(openLayer.id)" />
        <section v-else-if="effect" class="blank">
          <h2>The camera passes as it is</h2>
          <p>Drop a graded lookup anywhere here, and the picture changes at once.</p>
          <p class="acts">
            <button class="act" @click="add('lookup-grade')">Add a lookup grade</button>
            <button class="act" @click="add('fill')">Add a fill</button>
          </p>
          <p v-if="busy" role="status">Reading {{ busy }} …</p>
        </section>
      </div>
    </div>
    <PictureColumn
      ref="column" v-model:playing="playing" v-model:bare="bare" v-model:wipe="wipe" :stream="stream" :gpu="gpu" :name="effect?.name ?? ''"
      :still="effect?.still ?? null" :still-name="stillName" @picture="takePicture" @stand-in="standIn" />
    <PublishSheet v-model="publishedOpen" :made="published" />
  </main>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) clamp(340px, 33.4vw, 660px);
  height: 100vh;
}
.left {
  display: grid;
  grid-template-rows: 46px 165px minmax(0, 1fr);
  min-height: 0;
}
.bar {
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 0 18px;
  border-bottom: 1px solid var(--line);
}
.bar h1 {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bar h1 button {
  font-weight: 650;
}
.effect-name {
  font-size: 17px;
  font-weight: 650;
}
.saved {
  color: var(--second);
  white-space: nowrap;
}
.saved.waiting {
  color: var(--bad);
  font-weight: 650;
}
.gap {
  flex: 1;
}
.paper {
  background: var(--paper);
  overflow: auto;
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
