<!-- What is chosen from the shelf, shown small: by a list, a file, or dropped here. -->
<script setup lang="ts">
import { computed, inject, onBeforeUnmount, ref } from 'vue'
import { chosenFiles } from '../../api/files'
import type { Asset, ShelfPiece } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { COMING, dropped, pieceDragged, useShelf } from '../shelf/useShelf'
import { t } from '../../words'

/** `fits`: which pieces are listed; `removable`: whether there is something to take out though no file is chosen. */
const props = defineProps<{ name: string; hash: string | null; asset: Asset | null; fits: (piece: ShelfPiece) => boolean; choose: string; removable?: boolean }>()
const emit = defineEmits<{ take: [piece: ShelfPiece]; remove: [] }>()

const MOST_LISTED = 24
const { complain, say } = useMessages()
const shelf = useShelf()
const chooser = ref<HTMLInputElement | null>(null)
const busy = ref('')
const coming = inject(COMING, ref(0))
let isGone = false
onBeforeUnmount(() => (isGone = true))
const listed = computed(() => (shelf.pieces.value ?? []).filter(props.fits).slice(0, MOST_LISTED))

async function bring(files: File[]): Promise<void> {
  if (!files.length) return
  busy.value = files[0]?.name ?? ''
  coming.value++
  try {
    const [come] = await shelf.bring(files)
    if (come && isGone) say(t('controls.isOnTheShelfUnused', { name: come.piece.asset.name, control: props.name }))
    else if (come) emit('take', come.piece)
    if (!come && shelf.refused.value[0]) say(shelf.refused.value[0])
  } catch (error) {
    complain(error)
  } finally {
    busy.value = ''
    coming.value--
  }
}
async function drop(event: DragEvent): Promise<void> {
  const piece = pieceDragged(event.dataTransfer)
  if (piece) emit('take', piece)
  else await bring(await dropped(event.dataTransfer))
}
function picked(event: Event): void {
  void bring(chosenFiles(event))
}
</script>

<template>
  <div class="asset" :data-control="name" @dragover.prevent @drop.prevent.stop="drop">
    <span>{{ name }}</span>
    <input ref="chooser" type="file" hidden multiple @change="picked" />
    <span v-if="busy" role="status">{{ t('controls.reading', { busy }) }}</span>
    <span v-else class="held">
      <template v-if="hash">
        <img :src="`/api/assets/${hash}/print`" alt="" />
        <span class="file" :title="asset?.name">{{ asset?.name }}</span>
      </template>
      <v-menu>
        <template #activator="{ props: activator }"><button v-bind="activator" :class="hash ? 'word' : 'act'">{{ hash ? t('controls.replace') : choose }}</button></template>
        <div class="sheet menu-list choices" role="menu" :aria-label="choose">
          <button role="menuitem" @click="chooser?.click()">{{ t('controls.aFile') }}</button>
          <button v-for="piece in listed" :key="piece.asset.hash" role="menuitem" class="piece" @click="emit('take', piece)">
            <img :src="`/api/assets/${piece.asset.hash}/print`" alt="" loading="lazy" /><span>{{ piece.asset.name }}</span><span class="second figure">{{ piece.asset.sequence ? t('controls.frames', { frames: piece.asset.sequence.frames }) : '' }}</span>
          </button>
        </div>
      </v-menu>
      <button v-if="hash || removable" class="word" @click="emit('remove')">{{ t('controls.remove') }}</button>
      <span v-else class="second">{{ t('controls.orDropOneHere') }}</span>
    </span>
    <slot />
  </div>
</template>

<style scoped>
.asset {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  column-gap: 14px;
  align-items: center;
  min-height: 42px;
}
.held {
  display: flex;
  gap: 12px;
  align-items: center;
  min-width: 0;
}
.handed {
  grid-column: 2;
  display: flex;
  gap: 10px;
  font-size: 12px;
}
.held img {
  width: 36px;
  height: 36px;
  object-fit: cover;
  background: #7d7a73;
}
.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.second {
  color: var(--second);
}
.choices {
  max-height: 340px;
  overflow: auto;
}
.piece {
  display: grid;
  grid-template-columns: 32px minmax(120px, 220px) auto;
  gap: 10px;
  align-items: center;
}
.piece img {
  width: 32px;
  height: 32px;
  object-fit: cover;
  background: #7d7a73;
}
.piece span:nth-child(2) {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
