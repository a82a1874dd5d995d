<!-- One piece of the shelf: its print, which moves while it is pointed at where it is a sequence or clip; name, kind, size, weight. -->
<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import type { ShelfPiece } from '../../api/types'
import { weight } from '../../document/layers'
import NameField from '../controls/NameField.vue'
import { t } from '../../words'
import { DRAGGED } from './useShelf'

const props = defineProps<{ piece: ShelfPiece; uses: { id: string; title: string }[]; same: ShelfPiece[]; off?: boolean }>()
const emit = defineEmits<{ use: [id: string]; rename: [name: string]; replace: [by: string]; remove: []; restore: []; cut: []; look: [] }>()

const STEPS = 12
const STEP_MS = 120
const asset = computed(() => props.piece.asset)
const naming = ref(false)
const at = ref(0)
const moves = computed(() => props.piece.kind === 'sequence' || props.piece.kind === 'footage')
const hasPrint = computed(() => props.piece.kind !== 'group' && props.piece.kind !== 'recipe' && props.piece.kind !== 'profile')
let timer = 0

function play(): void {
  if (moves.value && !timer) timer = window.setInterval(() => (at.value = (at.value + 1) % STEPS), STEP_MS)
}
function rest(): void {
  window.clearInterval(timer)
  timer = 0
  at.value = 0
}
onBeforeUnmount(rest)

const facts = computed(() => {
  const { picture, sequence, footage, lookup, mesh, recipe, profile } = asset.value
  if (props.piece.kind === 'lookup' && lookup) return lookup.kind === 'cube' ? t('shelf.stepsOfALookup', { size: lookup.size }) : t('shelf.curves')
  if (sequence) return t('shelf.framesAt', { frames: sequence.frames, rate: Number(sequence.rate.toFixed(1)), width: sequence.width, height: sequence.height })
  if (footage && props.piece.kind === 'footage') return footage.seconds ? t('shelf.secondsOf', { seconds: footage.seconds.toFixed(1), width: footage.width, height: footage.height }) : `${footage.width} × ${footage.height}`
  if (mesh) return t('shelf.trianglesOf', { triangles: mesh.triangles.toLocaleString('en'), size: mesh.size })
  if (picture) {
    const cells = (picture.columns ?? 1) * (picture.rows ?? 1) > 1 ? `, ${t('shelf.cells', { columns: picture.columns, rows: picture.rows })}` : ''
    return `${picture.width} × ${picture.height}${cells}`
  }
  if (profile) return t('shelf.limitsForPreflight')
  return recipe ? t('shelf.nodesOf', { nodes: recipe.nodes }) : ''
})
const cut = computed(() => asset.value.picture?.cut?.map(([column, row]) => `${column}/${row}`).join(', ') ?? '')
const used = computed(() => (props.piece.used.length ? t('shelf.usedIn', { names: props.piece.used.map((one) => one.name).join(', ') }) : t('shelf.notUsed')))

function drag(event: DragEvent): void {
  event.dataTransfer?.setData(DRAGGED, asset.value.hash)
  if (event.dataTransfer) event.dataTransfer.effectAllowed = 'copy'
}
</script>

<template>
  <article class="piece" :data-piece="asset.hash" @pointerenter="play" @pointerleave="rest" @focusin="play" @focusout="rest">
    <div class="print" :draggable="!off" @dragstart="drag">
      <img v-if="hasPrint" :src="`/api/assets/${asset.hash}/print?at=${(at / STEPS).toFixed(2)}`" :alt="asset.name" draggable="false" loading="lazy" />
      <span v-else class="sign">{{ asset.recipe?.title ?? asset.profile?.title }}</span>
      <v-menu>
        <template #activator="{ props: activator }"><button v-bind="activator" class="more" :aria-label="t('shelf.moreFor', { name: asset.name })">…</button></template>
        <div class="sheet menu-list" role="menu" :aria-label="asset.name">
          <button v-if="off" role="menuitem" @click="emit('restore')">{{ t('shelf.bringItBack') }}</button>
          <template v-else>
            <button v-if="piece.kind === 'footage' || piece.kind === 'sequence'" role="menuitem" @click="emit('cut')">{{ t('shelf.makeASequence') }}</button>
            <button v-for="use in uses" :key="use.id" role="menuitem" @click="emit('use', use.id)">{{ t('shelf.useItAs', { title: use.title }) }}</button>
            <button v-if="piece.kind === 'footage'" role="menuitem" @click="emit('look')">{{ t('shelf.lookAtIt') }}</button>
            <button role="menuitem" @click="naming = true">{{ t('shelf.rename') }}</button>
            <button v-for="other in piece.used.length ? same : []" :key="other.asset.hash" role="menuitem" @click="emit('replace', other.asset.hash)">{{ t('shelf.replaceEverywhereBy', { name: other.asset.name }) }}</button>
            <a role="menuitem" :href="`/api/assets/${asset.hash}/file`" :download="asset.name">{{ t('shelf.download') }}</a>
            <button role="menuitem" @click="emit('remove')">{{ t('shelf.takeItOff') }}</button>
          </template>
        </div>
      </v-menu>
    </div>
    <NameField v-if="naming" :name="asset.name" :aria-label="t('shelf.nameOfTheFile')" @named="emit('rename', $event)" @close="naming = false" />
    <button v-else class="title" :title="asset.name" @dblclick="naming = true">{{ asset.name }}</button>
    <p class="light">{{ facts }}</p>
    <p class="light"><span class="figure">{{ weight(asset.bytes) }}</span><span v-if="!asset.profile" :title="used"> · {{ piece.used.length ? t('shelf.usedTimes', { count: piece.used.length }) : t('shelf.notUsed') }}</span></p>
    <p v-if="cut" class="bad">{{ t('shelf.cutOff', { cells: cut }) }}</p>
  </article>
</template>

<style scoped>
.piece {
  min-width: 0;
}
.print {
  position: relative;
  display: grid;
  place-items: center;
  height: 132px;
  margin-bottom: 5px;
  background: #7d7a73;
  cursor: grab;
}
.print img {
  max-width: 100%;
  max-height: 132px;
}
.sign {
  padding: 8px;
  font-weight: 650;
  text-align: center;
  color: #fff;
}
.more {
  position: absolute;
  right: 6px;
  top: 6px;
  width: 28px;
  height: 22px;
  font-weight: 650;
  line-height: 12px;
  background: var(--paper);
  opacity: 0;
}
.piece:hover .more,
.piece:focus-within .more {
  opacity: 1;
}
@media (hover: none) {
  .more {
    opacity: 1;
  }
}
.title {
  display: block;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 650;
}
.light {
  font-size: 12px;
  color: var(--second);
}
.bad {
  font-size: 12px;
  color: var(--bad);
}
</style>
