<!-- A mesh of the shelf, and which of its motions moves it. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Asset, Plain, ShelfPiece } from '../../api/types'
import { assetOf } from '../../document/material'
import { useMessages } from '../messages/useMessages'
import { useAsset } from '../shelf/useAsset'
import { t } from '../../words'
import ChoiceControl from './ChoiceControl.vue'
import RulerControl from './RulerControl.vue'
import ShelfChoice from './ShelfChoice.vue'

const props = defineProps<{ name: string; value: Plain }>()
const emit = defineEmits<{ choose: [value: Plain, asset?: Asset]; turn: [value: Plain]; commit: [] }>()

const STILL = ''
const { say } = useMessages()
const hash = computed(() => assetOf(props.value))
const asset = useAsset(() => hash.value)
const held = computed(() => (props.value ?? {}) as { asset: string; motion?: string | null; speed?: number })
const motions = computed(() => asset.value?.mesh?.motions ?? [])
const facts = computed(() => {
  const mesh = asset.value?.mesh
  return mesh ? t('controls.meshOf', { triangles: mesh.triangles.toLocaleString('en'), across: mesh.across, up: mesh.up, deep: mesh.deep }) : ''
})

const isMesh = (piece: ShelfPiece): boolean => piece.kind === 'mesh'
function take(piece: ShelfPiece): void {
  if (!isMesh(piece)) return say(t('controls.isNoMesh', { name: piece.asset.name }))
  const [first] = piece.asset.mesh?.motions ?? []
  emit('choose', { asset: piece.asset.hash, motion: first?.name ?? null, speed: 1 }, piece.asset)
}
</script>

<template>
  <ShelfChoice :name="name" :hash="hash" :asset="asset" :fits="isMesh" :choose="t('controls.chooseAMesh')" @take="take" @remove="emit('choose', null)">
    <span v-if="facts" class="facts second">{{ facts }}</span>
  </ShelfChoice>
  <div v-if="motions.length" class="moving">
    <ChoiceControl
      :name="t('controls.moves')" :value="held.motion ?? STILL" :choices="[STILL, ...motions.map((one) => one.name)]" :words="{ [STILL]: t('controls.atRest') }"
      @choose="emit('choose', { ...held, motion: $event || null })" />
    <RulerControl
      v-if="held.motion" :name="t('controls.speed')" :value="held.speed ?? 1" :neutral="1" :low="-4" :high="4" :scale="100" unit="%" @turn="emit('turn', { ...held, speed: $event })"
      @commit="emit('commit')" />
  </div>
</template>

<style scoped>
.facts {
  grid-column: 2;
  font-size: 12px;
  color: var(--second);
}
.moving {
  margin-left: 14px;
  padding-left: 12px;
  border-left: 1px solid var(--line);
}
</style>
