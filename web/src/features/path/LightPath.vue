<!-- The beam from the camera through every layer into the picture. Tiles show the live picture after their layer. -->
<script setup lang="ts">
import { computed, nextTick, reactive, ref, watch } from 'vue'
import type { Layer, LayerGroup, LayerKind } from '../../api/types'
import type { Screen } from '../picture/useLooking'
import { runs, shows } from '../../document/groups'
import GroupBracket from './GroupBracket.vue'
import NameField from '../controls/NameField.vue'
import LayerPalette from './LayerPalette.vue'
import LivePicture from '../picture/LivePicture.vue'
import { t } from '../../words'

const props = defineProps<{
  layers: Layer[]
  groups: LayerGroup[]
  open: string | null
  kinds: LayerKind[]
  tiles: Map<string, HTMLCanvasElement>
  troubled: string | null
  solo: string | null
  screen: Screen
}>()
const emit = defineEmits<{
  open: [id: string]
  switch: [id: string]
  reorder: [id: string, to: number]
  add: [kind: LayerKind | null]
  duplicate: [id: string]
  copy: [id: string]
  paste: []
  soloed: [id: string]
  /** Points at a stage for a while: the picture as of there. */
  asOf: [id: string | null]
  remove: [id: string]
  rename: [id: string, name: string]
  group: [ids: string[]]
  changeGroup: [gesture: string, id: string, values: Partial<LayerGroup>]
  moveGroup: [name: string, id: string, step: -1 | 1]
  ungroup: [name: string, id: string]
}>()

/** Tiles have the shape of the screen. */
const TILES: Record<Screen, [number, number]> = { '9:16': [66, 114], '3:4': [86, 114], '1:1': [106, 106], '16:9': [112, 63] }
const tile = computed(() => ({ '--w': `${TILES[props.screen][0]}px`, '--h': `${TILES[props.screen][1]}px` }))
/** Where the path ends below: the palette opens there. */
const foot = ref(196)

const path = ref<HTMLElement | null>(null)
const menu = ref(false)
const dragging = ref<{ id: string; x: number; to: number } | null>(null)
let grabbed: { id: string; x: number } | null = null
const POINT_MS = 350

/** Marked for a group: Shift-click, or M. */
const marked = reactive(new Set<string>())
const naming = ref<string | null>(null)
/** Groups of which only the last tile is seen. */
const folded = reactive(new Set<string>())
const stretches = computed(() =>
  runs(props.layers, props.groups).map(({ group, layers }) => ({
    group,
    layers: layers.map((layer) => ({ layer, n: props.layers.indexOf(layer) })).slice(group && folded.has(group.id) ? -1 : 0),
  })),
)

/** Where a tile dropped at `x` would stand, 0 being first. */
function slot(x: number): number {
  const tiles = [...(path.value?.querySelectorAll<HTMLElement>('.tile') ?? [])]
  return Number(tiles.filter((tile) => tile.getBoundingClientRect().left + tile.offsetWidth / 2 < x).at(-1)?.dataset.n ?? -1) + 1
}

function clicked(event: MouseEvent, id: string): void {
  if (event.shiftKey || event.ctrlKey || event.metaKey) mark(id)
  else emit('open', id)
}

function mark(id: string): void {
  if (!marked.delete(id)) marked.add(id)
}

function group(id: string): void {
  emit('group', props.layers.map((layer) => layer.id).filter((one) => marked.has(one) || one === id))
  marked.clear()
}

function rename(id: string): void {
  naming.value = id
}

async function named(id: string): Promise<void> {
  naming.value = null
  await nextTick()
  focus(id)
}

function focus(id: string): void {
  path.value?.querySelector<HTMLElement>(`[data-layer="${id}"] .tile-face`)?.focus()
}

function grab(event: PointerEvent, id: string): void {
  if (event.button === 0) grabbed = { id, x: event.clientX }
}

function drag(event: PointerEvent): void {
  if (!grabbed) return
  if (!dragging.value && Math.abs(event.clientX - grabbed.x) < 6) return
  if (!dragging.value) (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  dragging.value = { id: grabbed.id, x: event.clientX - grabbed.x, to: slot(event.clientX) }
}

function drop(): void {
  const held = dragging.value
  grabbed = null
  dragging.value = null
  if (!held) return
  const from = props.layers.findIndex((layer) => layer.id === held.id)
  const to = held.to > from ? held.to - 1 : held.to
  if (to !== from) emit('reorder', held.id, to)
}

async function key(event: KeyboardEvent, id: string): Promise<void> {
  const from = props.layers.findIndex((layer) => layer.id === id)
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (step) {
    event.preventDefault()
    const seen = stretches.value.flatMap((run) => run.layers.map(({ layer }) => layer.id))
    const beside = seen[seen.indexOf(id) + step]
    if (!beside) return
    if (event.shiftKey) emit('reorder', id, from + step)
    await nextTick()
    focus(event.shiftKey ? id : beside)
    return
  }
  const control = event.ctrlKey || event.metaKey
  const acts: Record<string, (() => void) | undefined> = control
    ? { c: () => emit('copy', id), v: () => emit('paste') }
    : {
        delete: () => emit('remove', id),
        backspace: () => emit('remove', id),
        o: () => emit('switch', id),
        d: () => emit('duplicate', id),
        x: () => emit('soloed', id),
        n: () => void rename(id),
        m: () => mark(id),
        p: () => group(id),
      }
  const act = acts[event.key.toLowerCase()]
  if (!act) return
  // The same letters mean the open layer elsewhere on the page.
  event.preventDefault()
  event.stopPropagation()
  act()
}

function shift(id: string): string {
  return dragging.value?.id === id ? `translateX(${dragging.value.x}px)` : ''
}

let pointing = 0
function point(id: string | null): void {
  window.clearTimeout(pointing)
  if (id === null) emit('asOf', null)
  else pointing = window.setTimeout(() => !dragging.value && emit('asOf', id), POINT_MS)
}
// Tiles that have moved leave the hand: the browser says so only a while later.
watch(() => props.layers.map((layer) => layer.id).join(), () => point(null)) // prettier-ignore

/** What switching does is seen at once, in the whole picture: pointing at the tile begins anew when the hand comes back. */
function switched(id: string): void {
  point(null)
  emit('switch', id)
}

function choose(): void {
  foot.value = (path.value?.getBoundingClientRect().bottom ?? 210) - 14
  menu.value = true
}
function add(kind: LayerKind | null): void {
  menu.value = false
  emit('add', kind)
}

defineExpose({ add: choose, rename, group })
</script>

<template>
  <nav ref="path" class="path" :style="tile" :class="{ grouped: groups.length }" :aria-label="t('path.lightPath')" @pointermove="drag" @pointerup="drop" @pointercancel="drop">
    <div class="stage" @pointerenter="point('camera')" @pointerleave="point(null)">
      <LivePicture class="face" :canvas="tiles.get('camera')" :alt="t('path.theBareCamera')" />
      <span class="name">{{ t('path.camera') }}</span>
    </div>
    <div v-for="run in stretches" :key="run.group?.id ?? run.layers[0]?.layer.id" class="run">
      <GroupBracket
        v-if="run.group" :group="run.group" :folded="folded.has(run.group.id)" @fold="folded.delete(run.group.id) || folded.add(run.group.id)"
        @change="(gesture, values) => run.group && emit('changeGroup', gesture, run.group.id, values)"
        @move="run.group && emit('moveGroup', run.group.name, run.group.id, $event)"
        @dissolve="run.group && emit('ungroup', run.group.name, run.group.id)" />
      <template v-for="{ layer, n } in run.layers" :key="layer.id">
        <span v-if="dragging && dragging.to === n" class="here" />
        <div
          class="stage tile" :class="{ open: layer.id === open, off: !shows(layer, groups) || (solo && solo !== layer.id), held: dragging?.id === layer.id, marked: marked.has(layer.id) }"
          :data-layer="layer.id" :data-n="n" :style="{ transform: shift(layer.id) }" @pointerdown="grab($event, layer.id)"
          @pointerenter="point(layer.id)" @pointerleave="point(null)">
          <button
            class="tile-face" :aria-current="layer.id === open ? 'true' : undefined"
            :aria-label="t('path.layer2', { name: layer.name, n: n + 1, which: layer.on ? '' : t('path.switchedOff'), which2: marked.has(layer.id) ? t('path.marked') : '' })"
            :title="t('path.dragOrShiftWithAnArrow')"
            @click="clicked($event, layer.id)" @keydown="key($event, layer.id)">
            <LivePicture class="face" :canvas="tiles.get(layer.id)" :alt="t('path.thePictureAfter', { name: layer.name })" />
          </button>
          <button
            class="bead" :aria-pressed="layer.on" :aria-label="`${layer.on ? t('path.switchOff') : t('path.switchOn')} ${layer.name}`"
            :title="layer.on ? t('path.switchOff') : t('path.switchOn')" @click="switched(layer.id)" />
          <NameField
            v-if="naming === layer.id" class="naming" :name="layer.name" :aria-label="t('path.nameOfTheLayer')" @pointerdown.stop
            @named="emit('rename', layer.id, $event)" @close="named(layer.id)" />
          <span v-else class="name" :class="{ bad: troubled === layer.id }" @click="emit('open', layer.id)" @dblclick="rename(layer.id)">{{ layer.name }}</span>
          <span v-if="layer.id === solo" class="solo">{{ t('path.onlyThis') }}</span>
          <span v-if="layer.id === open" class="tab" aria-hidden="true" />
        </div>
      </template>
    </div>
    <span v-if="dragging && dragging.to === layers.length" class="here" />
    <button class="add" aria-haspopup="menu" :aria-expanded="menu" :title="t('path.addALayerA')" @click="choose">{{ t('path.add') }}<br />{{ t('path.aLayer') }}</button>
    <!-- Stands at the left edge whatever the path's length, so that it never covers the picture. -->
    <v-menu v-model="menu" :close-on-content-click="false" :target="[18, foot]" location="end bottom">
      <LayerPalette :kinds="kinds" @add="add" />
    </v-menu>
  </nav>
</template>

<style scoped>
.path {
  position: relative;
  display: flex;
  align-items: flex-start;
  gap: 40px;
  height: calc(var(--h) + 51px);
  padding: 11px 40px 0 28px;
  overflow: auto hidden;
  border-bottom: 1px solid var(--line);
  background: linear-gradient(var(--glaze), var(--glaze)) 0 calc(var(--h) / 2 + 10px) / 100% 3px no-repeat local;
  touch-action: pan-x;
}
.path.grouped {
  height: calc(var(--h) + 73px);
  padding-top: 33px;
  background-position: 0 calc(var(--h) / 2 + 32px);
}
.run {
  position: relative;
  flex: none;
  display: flex;
  gap: 40px;
}
.stage {
  position: relative;
  flex: none;
  width: var(--w);
  display: flex;
  flex-direction: column;
  align-items: center;
}
.face {
  width: var(--w);
  height: var(--h);
  border: 2px solid var(--chalk);
  outline: 1px solid var(--line);
}
.tile-face {
  display: block;
  touch-action: none;
  user-select: none;
}
.tile-face:focus-visible {
  outline-offset: 3px;
}
.open .face {
  outline: 2px solid var(--glaze);
}
.off .face {
  filter: grayscale(1) opacity(0.35);
  background: var(--chalk);
}
.off .name {
  text-decoration: line-through;
  color: var(--faint);
}
.marked .face {
  outline: 3px double var(--ink);
}
.naming {
  width: 104px;
  margin-top: 4px;
  font-size: 13px;
}
.held {
  z-index: 2;
  opacity: 0.85;
}
.held .face {
  outline: 2px solid var(--ink);
}
.name {
  margin-top: 5px;
  /* Over the tab of the open tile where it takes two lines. */
  position: relative;
  z-index: 1;
  display: -webkit-box;
  width: max-content;
  max-width: 104px;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-height: 1.2;
  text-align: center;
  overflow-wrap: anywhere;
  font-size: 13px;
  cursor: default;
}
.open .name {
  font-weight: 650;
}
.name.bad {
  color: var(--bad);
  font-weight: 650;
}
.solo {
  position: absolute;
  top: -9px;
  font-size: 12px;
  line-height: 1;
  padding: 2px 5px;
  color: #fff;
  background: var(--glaze);
}
.bead {
  position: absolute;
  left: calc(var(--w) + 13px);
  top: calc(var(--h) / 2 - 7px);
  width: 15px;
  height: 15px;
  border-radius: 50%;
  border: 3px solid var(--glaze);
  background: var(--paper);
}
/* A target larger than the bead. */
.bead::after {
  content: '';
  position: absolute;
  inset: -8px;
}
.off .bead {
  border-color: #96907f;
}
/* The beam passes a switched-off layer by: it pales under its tile. */
.off::before {
  content: '';
  position: absolute;
  left: -20px;
  right: -12px;
  top: calc(var(--h) / 2 - 2px);
  height: 5px;
  background: linear-gradient(90deg, transparent, var(--chalk) 25%, var(--chalk) 75%, transparent);
  pointer-events: none;
}
.tab {
  position: absolute;
  top: calc(var(--h) + 26px);
  width: 28px;
  height: 14px;
  border: 1px solid var(--line);
  border-bottom: 0;
  border-radius: 14px 14px 0 0;
  background: var(--paper);
}
.here {
  flex: none;
  width: 3px;
  height: var(--h);
  margin: 0 -21.5px;
  background: var(--ink);
}
.add {
  flex: none;
  width: 64px;
  height: calc(var(--h) - 2px);
  margin-top: 1px;
  border: 1px dashed #96907f;
  background: var(--chalk);
  color: var(--second);
}
.add:hover {
  color: var(--ink);
  border-color: var(--ink);
}
</style>
