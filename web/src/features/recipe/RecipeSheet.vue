<!-- The recipe of the open layer as slips of paper and wires. -->
<script setup lang="ts">
import '@vue-flow/core/dist/style.css'
import { useVueFlow, VueFlow, type Connection, type EdgeMouseEvent, type NodeDragEvent } from '@vue-flow/core'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import { save } from '../../api/files'
import type { Recipe } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { useShelf } from '../shelf/useShelf'
import { usePreviews } from '../desk/usePreviews'
import type { RecipeWork } from './useRecipe'
import { useSlips } from './useSlips'
import { ends, GROUP, RESULT, within, type Ports } from '../../document/recipes'
import { tidied } from '../../document/tidy'
import { chosenOf, finds, free, inOrder } from './finding'
import NodeFinder, { type Find } from './NodeFinder.vue'
import NodeSettings from './NodeSettings.vue'
import RecipeWire from './RecipeWire.vue'
import SlipNode from './SlipNode.vue'
import { t } from '../../words'

const props = defineProps<{
  /** The id of the layer, or of the group whose drive it is. */
  holder: string
  work: RecipeWork
  ports: Ports
  kinds: { kind: string; title: string; family: string; help: string }[]
  stages: [string, string][]
  /** The control whose drive it is, and what it is called then. */
  drive: string | null
  title: string
}>()

const { say, complain } = useMessages()
const { recipe, path, chosen, wire, node } = props.work
const previews = usePreviews(computed(() => ({ layer: props.holder, path: path.value, drive: props.drive ?? '' })))
const flow = useVueFlow(`recipe ${props.holder} ${props.drive ?? ''}`)
const ground = ref<HTMLElement | null>(null)
const chooser = ref<HTMLInputElement | null>(null)
const listed = ref(false)

const READABLE = 0.72
/** Before the hash of a group that is kept on the shelf. */
const KEPT = 'kept:'
const shelf = useShelf()

/** Keep the chosen group for other effects; it is found by its name there. */
async function keepGroup(): Promise<void> {
  const group = node.value && recipe.value?.groups[node.value.kind.slice(GROUP.length)]
  if (!group) return
  try {
    await api.keepGroup({ ...group, name: node.value?.name || group.name })
    await shelf.refresh()
    say(t('recipe.isKeptForOtherEffects', { name: node.value?.name || group.name }))
  } catch (error) {
    complain(error)
  }
}

const { nodes, edges, shown } = useSlips(props.work, () => props.ports, previews, () => props.drive !== null)

// ---- choosing, moving, wiring ----
watch(
  () => flow.getSelectedNodes.value.map((one) => one.id).join(' '),
  (ids) => {
    if (ids !== [...chosen.value].join(' ')) props.work.choose(ids.split(' ').filter(Boolean))
  },
)
watch(
  () => flow.getSelectedEdges.value[0]?.id ?? null,
  (id) => (wire.value = id),
)

function dragged(event: NodeDragEvent): void {
  const moved = event.nodes.filter((one) => one.id !== RESULT)
  const places = new Map(moved.map((one): [string, [number, number]] => [one.id, [Math.round(one.position.x), Math.round(one.position.y)]]))
  if (places.size) props.work.place(places)
}

let started: { end: string; isSource: boolean } | null = null
function began(event: { nodeId?: string; handleId?: string | null; handleType?: string }): void {
  started = { end: `${event.nodeId}.${event.handleId}`, isSource: event.handleType === 'source' }
}
function connected(connection: Connection): void {
  started = null
  props.work.connect(`${connection.source}.${connection.sourceHandle}`, `${connection.target}.${connection.targetHandle}`)
}
function ended(event?: MouseEvent | TouchEvent): void {
  const from = started
  started = null
  if (!from || !(event instanceof MouseEvent)) return
  openFinder({ x: event.clientX, y: event.clientY }, from)
}
function pickWire(event: EdgeMouseEvent): void {
  wire.value = event.edge.id
  ground.value?.focus({ preventScroll: true })
}

// ---- finding nodes, and inputs to wire to ----
const finder = shallowRef<{ x: number; y: number; at: [number, number]; from: { end: string; isSource: boolean } | null; heading: string; items: Find[]; gives: string | undefined } | null>(null)
/** Groups that are kept on the shelf, which may be read only after the finder was opened. */
const kept = computed<Find[]>(() =>
  (shelf.pieces.value ?? []).flatMap(({ asset, kind }) => (kind === 'group' && asset.recipe ? [{ id: KEPT + asset.hash, title: asset.recipe.title, family: t('recipe.kept'), help: asset.recipe.help }] : [])),
)
const offered = computed(() => {
  const now = finder.value
  const all = now ? [...now.items, ...kept.value] : []
  return now && !now.from ? inOrder(all, props.ports, now.gives) : all
})

function openFinder(where: { x: number; y: number } | null, from: { end: string; isSource: boolean } | null): void {
  const box = ground.value?.getBoundingClientRect()
  const all = recipe.value
  if (!box || !all) return
  const point = where ?? { x: box.left + box.width / 2, y: box.top + 60 }
  const pointed = flow.screenToFlowCoordinate(point)
  const at = where ? [Math.round(pointed.x), Math.round(pointed.y)] as [number, number] : free(all, node.value?.at, [Math.round(pointed.x), Math.round(pointed.y)])
  const given = from?.isSource ? props.ports.typeOf(all, from.end) : null
  const [id, name] = from ? ends(from.end) : ['', '']
  const target = all.nodes.find((one) => one.id === id)
  const asked = from && !from.isSource ? (id === RESULT ? 'colour' : (target && props.ports.inputs(all, target).find((port) => port.name === name)?.type)) : null
  const items: Find[] = []
  if (given) items.push(...entrances(all, given, id))
  for (const kind of props.kinds) {
    const entry = props.ports.kind({ id: '', kind: kind.kind, name: '', set: {}, at: [0, 0], comment: '' })
    if (!entry) continue
    if (given && !props.ports.entrance(entry, given)) continue
    if (asked && !entry.outputs.some((port) => props.ports.converts(port.type, asked))) continue
    items.push(...finds(entry))
  }
  for (const [key, group] of Object.entries(all.groups)) items.push({ id: GROUP + key, title: group.name, family: 'group', help: group.help })
  const gives = node.value ? props.ports.outputs(all, node.value)[0]?.type : undefined
  const heading = given ? t('recipe.wireItTo') : asked ? t('recipe.giveItFrom') : wire.value ? t('recipe.putIntoTheWire') : t('recipe.findANode')
  const x = Math.max(8, Math.min(point.x - box.left, box.width - 316))
  const y = Math.max(8, Math.min(point.y - box.top, box.height - 330))
  finder.value = { x, y, at, from, heading, items, gives }
}

/** Inputs of nodes that are there already, which a wire of a type may lead to. */
function entrances(all: Recipe, given: string, besides: string): Find[] {
  const found = all.nodes
    .filter((one) => one.id !== besides)
    .flatMap((one) =>
      props.ports
        .inputs(all, one)
        .filter((port) => props.ports.wire(port.type) !== '' && props.ports.converts(given, port.type))
        .map((port) => ({ id: `> ${one.id}.${port.name}`, title: `${props.ports.title(all, one)}: ${port.title}`, family: t('recipe.isThere'), help: '' })),
    )
  const out = path.value.length ? `> ${RESULT}.more` : `> ${RESULT}.colour`
  return [{ id: out, title: path.value.length ? t('recipe.outOfTheGroup') : t('recipe.theLayer'), family: 'result', help: '' }, ...found]
}

async function found(id: string): Promise<void> {
  const now = finder.value
  if (!now) return
  closeFinder()
  if (id.startsWith(KEPT)) {
    try {
      props.work.addKept(await api.keptGroup(id.slice(KEPT.length)), now.at, now.from)
    } catch (error) {
      complain(error)
    }
    return
  }
  if (id.startsWith('> ') && now.from) props.work.connect(now.from.end, id.slice(2))
  else {
    const [kind, set] = chosenOf(id)
    props.work.add(kind, now.at, now.from, set)
  }
}
function closeFinder(): void {
  finder.value = null
  ground.value?.focus({ preventScroll: true })
}

// ---- whole-recipe work ----
async function tidy(): Promise<void> {
  const all = recipe.value
  if (!all) return
  props.work.place(tidied(all, (id) => flow.findNode(id)?.dimensions ?? { width: 150, height: 110 }))
  await nextTick()
  window.setTimeout(seeAll, 60)
}

function packChosen(): void {
  if (chosen.value.size) props.work.pack(t('recipe.group'))
  else say(t('recipe.chooseTheNodesToPackFirst'))
}

async function importFile(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  field.value = ''
  if (!file) return
  try {
    const read = await api.importRecipe(file)
    if (!read.recipe) return
    props.work.replace(read.recipe, `recipe of ${file.name}`)
    say(read.notes.length ? t('recipe.wasReadLeftOut', { name: file.name, notes: read.notes.join(', ') }) : t('recipe.wasRead', { name: file.name }))
  } catch (error) {
    complain(error)
  }
}

async function exportFile(form: 'json' | 'mtlx'): Promise<void> {
  const all = props.work.root.value
  if (!all) return
  const name = props.title.toLowerCase().replace(/[^a-z0-9]+/g, '-')
  if (form === 'json') {
    save(`${name}.recipe.json`, new Blob([JSON.stringify({ ...all, name: props.title }, null, 2)], { type: 'application/json' }))
    return
  }
  try {
    const written = await api.materialx(all)
    save(`${name}.mtlx`, new Blob([written.text], { type: 'application/xml' }))
    if (written.notes.length) say(t('recipe.savedAsMaterialxWhichHasNo', { notes: written.notes.join(', ') }))
  } catch (error) {
    complain(error)
  }
}

// ---- keys ----
/** The slip nearest in a direction from the one that is chosen. */
function step(dx: number, dy: number): void {
  const from = flow.findNode([...chosen.value][0] ?? '')
  const rest = flow.getNodes.value.filter((one) => one.id !== from?.id && one.id !== RESULT)
  const score = (one: (typeof rest)[number]) => {
    const [x, y] = [one.position.x - (from?.position.x ?? 0), one.position.y - (from?.position.y ?? 0)]
    const along = x * dx + y * dy
    return along <= 4 ? Infinity : along + 2.2 * Math.abs(x * dy + y * dx)
  }
  const next = from ? rest.reduce((best, one) => (score(one) < score(best) ? one : best), rest[0] ?? from) : flow.getNodes.value[0]
  if (!next || (from && score(next) === Infinity)) return
  props.work.choose([next.id])
}

/** Brings a slip into the ground where it is not, as little as will do. */
function reveal(id: string): void {
  const slip = flow.findNode(id)
  const box = ground.value?.getBoundingClientRect()
  if (!slip || !box) return
  const { x, y, zoom } = flow.getViewport()
  const [left, top] = [slip.position.x * zoom + x, slip.position.y * zoom + y]
  const [wide, high] = [(slip.dimensions.width || 170) * zoom, (slip.dimensions.height || 150) * zoom]
  const into = (low: number, size: number, room: number) => (low < 12 ? 12 - low : low + size > room - 12 ? Math.max(12 - low, room - 12 - low - size) : 0)
  const [dx, dy] = [into(left, wide, box.width), into(top, high, box.height - 34)]
  if (dx || dy) void flow.setViewport({ x: x + dx, y: y + dy, zoom })
}
// The settings open beside the ground and make it narrower: after that.
watch(
  () => node.value?.id,
  (id) => id && window.setTimeout(() => reveal(id), 60),
)

function nudge(dx: number, dy: number): void {
  const all = recipe.value
  if (!all) return
  const moved = all.nodes.filter((one) => chosen.value.has(one.id))
  props.work.place(new Map(moved.map((one): [string, [number, number]] => [one.id, [one.at[0] + dx * 20, one.at[1] + dy * 20]])))
}

function linkByKey(): void {
  const one = node.value
  const out = one && recipe.value ? props.ports.outputs(recipe.value, one)[0] : undefined
  if (!one || !out) return say(t('recipe.chooseTheNodeToWireFrom'))
  const box = document.querySelector(`[data-id="${CSS.escape(one.id)}"]`)?.getBoundingClientRect()
  openFinder(box ? { x: box.right + 10, y: box.top } : null, { end: `${one.id}.${out.name}`, isSource: true })
}

const KEYS: Record<string, () => void> = {
  f: () => openFinder(null, null),
  t: () => void tidy(),
  p: packChosen,
  l: linkByKey,
  delete: () => props.work.remove(),
  backspace: () => props.work.remove(),
  enter: () => node.value?.kind.startsWith(GROUP) && props.work.enter(node.value.id),
  escape: () => (chosen.value.size || wire.value ? (props.work.choose([]), (wire.value = null)) : props.work.leave()),
  'ctrl+a': () => props.work.choose(recipe.value?.nodes.map((one) => one.id) ?? []),
  'ctrl+c': () => props.work.copy(),
  'ctrl+x': () => (props.work.copy(), props.work.remove()),
  'ctrl+v': () => props.work.paste([36, 36]),
  '0': () => void flow.fitView({ padding: 0.12, maxZoom: 1 }),
}
const ARROWS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }

function key(event: KeyboardEvent): void {
  if ((event.target as HTMLElement).closest('input, textarea, select, .finder, .settings')) return
  const arrow = ARROWS[event.key]
  const act = KEYS[`${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${event.key.toLowerCase()}`]
  if (arrow) (event.shiftKey ? nudge : step)(...arrow)
  else if (act && !(event.key === 'Enter' && (event.target as HTMLElement).matches('button'))) act()
  else return
  event.preventDefault()
  event.stopPropagation()
}

onMounted(() => window.setTimeout(() => ground.value?.focus({ preventScroll: true }), 0))
/** All of it where that stays readable, else its left end: recipes read from the left. */
function seeAll(): void {
  const wide = Math.max(...nodes.value.map((one) => one.position.x)) + 260
  const high = Math.max(...nodes.value.map((one) => one.position.y)) + 200
  const box = ground.value?.getBoundingClientRect()
  if (!box) return
  const zoom = Math.min(1, box.width / wide, box.height / high)
  void flow.setViewport({ x: 0, y: 0, zoom: Math.max(READABLE, zoom) })
}
watch([path, () => recipe.value === null], () => window.setTimeout(seeAll, 60))
flow.onNodesInitialized(once)
let seen = false
function once(): void {
  if (seen) return
  seen = true
  seeAll()
}
defineExpose({ find: () => openFinder(null, null), tidy, pack: packChosen, exportFile, importFile: () => chooser.value?.click(), list: () => (listed.value = !listed.value) })
</script>

<template>
  <div class="recipe" @keydown="key">
    <input ref="chooser" type="file" hidden accept=".json,.mtlx,.xml" @change="importFile" />
    <nav v-if="path.length || drive !== null" class="way" :aria-label="t('recipe.groups')">
      <button v-if="path.length" class="word" @click="work.leave(0)">{{ title }}</button>
      <b v-else>{{ title }}</b>
      <template v-for="(id, n) in path" :key="id">
        <span aria-hidden="true">›</span>
        <button v-if="n < path.length - 1" class="word" @click="work.leave(n + 1)">{{ work.root.value && within(work.root.value, path.slice(0, n + 1))?.name }}</button>
        <b v-else>{{ recipe?.name }}</b>
      </template>
    </nav>
    <div class="both">
      <div ref="ground" class="ground" tabindex="0" role="application" :aria-label="t('recipe.recipeOfFFindsANode', { name: title })">
        <VueFlow
          :id="`recipe ${holder} ${drive ?? ''}`" :nodes="nodes" :edges="edges" :default-viewport="{ x: 0, y: 0, zoom: 1 }" :min-zoom="0.15" :max-zoom="2"
          :delete-key-code="null" selection-key-code="Shift" multi-selection-key-code="Shift" disable-keyboard-a11y
          :nodes-focusable="false" :edges-focusable="false" only-render-visible-elements :zoom-on-double-click="false" elevate-edges-on-select
          @node-drag-stop="dragged" @connect-start="began" @connect="connected" @connect-end="ended" @edge-click="pickWire"
          @dblclick="openFinder({ x: $event.clientX, y: $event.clientY }, null)" @pane-click="ground?.focus({ preventScroll: true })"
          @node-click="ground?.focus({ preventScroll: true })">
          <template #node-slip="one">
            <SlipNode :data="one.data" :shown="shown(one.id)" :selected="one.selected" @open="work.enter(one.id)" />
          </template>
          <template #edge-wire="one"><RecipeWire v-bind="one" /></template>
        </VueFlow>
        <NodeFinder v-if="finder" :items="offered" :heading="finder.heading" :x="finder.x" :y="finder.y" @choose="found" @close="closeFinder" />
        <p v-if="previews.trouble.value" class="trouble" role="alert">{{ previews.trouble.value }}</p>
      </div>
      <NodeSettings
        v-if="recipe && (node || listed)" :recipe="recipe" :node="node" :ports="ports" :stages="stages" :in-group="path.length > 0"
        @turn="work.turn" @commit="work.commit" @unwire="work.disconnect" @expose="work.expose" @rename="work.rename" @comment="work.comment"
        @open="node && work.enter(node.id)" @unpack="node && work.unpack(node.id)" @keep="keepGroup" @control="work.control" />
    </div>
    <ul class="legend" :aria-label="t('recipe.patternsOfWires')">
      <li>{{ t('recipe.number') }} <svg width="34" height="10"><path d="M0 5H34" stroke="#23211d" stroke-width="1.4" /></svg></li>
      <li>{{ t('recipe.colour') }} <svg width="34" height="10"><path d="M0 5H34" stroke="#23211d" stroke-width="4.6" /><path d="M0 5H34" stroke="#faf8f3" stroke-width="2" /></svg></li>
      <li>{{ t('recipe.mask') }} <svg width="34" height="10"><path d="M0 5H34" stroke="#23211d" stroke-width="5.6" /><path d="M0 5H34" stroke="#faf8f3" stroke-width="3" /><path d="M0 5H34" stroke="#23211d" stroke-width="3" stroke-dasharray="3 3" /></svg></li>
      <li>{{ t('recipe.picture') }} <svg width="34" height="10"><path d="M0 5H34" stroke="#23211d" stroke-width="7.5" /><path d="M0 5H34" stroke="#faf8f3" stroke-width="4.8" /><path d="M0 5H34" stroke="#23211d" stroke-width="4.8" stroke-dasharray="1.2 5" /></svg></li>
      <li>{{ t('recipe.doesNotFit') }} <svg width="34" height="10"><path d="M0 5H34" stroke="#7e1f1f" stroke-width="2" stroke-dasharray="6 5" /></svg></li>
    </ul>
  </div>
</template>

<style scoped>
.recipe {
  flex: 1;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-top: 1px solid var(--line);
}
.way {
  display: flex;
  gap: 10px;
  padding: 6px 18px;
  border-bottom: 1px solid var(--line);
}
.both {
  flex: 1;
  display: flex;
  min-height: 0;
}
.ground {
  position: relative;
  flex: 1;
  min-width: 0;
  background: radial-gradient(#ded8ca 1px, transparent 1px) 0 0 / 24px 24px;
}
.ground:focus-visible {
  outline-width: 1px;
  outline-offset: -1px;
}
.trouble {
  position: absolute;
  left: 18px;
  top: 10px;
  color: var(--bad);
  font-weight: 650;
}
.legend {
  display: flex;
  gap: 16px;
  margin: 0;
  padding: 3px 18px;
  list-style: none;
  font-size: 12px;
  color: var(--second);
  border-top: 1px solid var(--line);
}
.legend li {
  display: flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
</style>
