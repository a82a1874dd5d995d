<!-- The shelf, pulled up over the desk: everything on it, found by name and kind; used, renamed, replaced, taken off, brought in. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { chosenFiles } from '../../api/files'
import { api } from '../../api/client'
import type { ShelfKind, ShelfPiece } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'
import ShelfPrint from './ShelfPrint.vue'
import { dropped, useShelf } from './useShelf'

const props = defineProps<{ usesOf: (piece: ShelfPiece) => { id: string; title: string }[] }>()
const emit = defineEmits<{ use: [piece: ShelfPiece, id: string]; cut: [piece: ShelfPiece]; look: [piece: ShelfPiece]; close: []; changed: [] }>()

const { say, complain } = useMessages()
const shelf = useShelf()
void shelf.refresh().catch(complain)
const KINDS: [ShelfKind | '', string][] = [
  ['', t('shelf.everything')], ['picture', t('shelf.pictures')], ['sequence', t('shelf.sequences')], ['footage', t('shelf.clips')],
  ['mesh', t('shelf.meshes')],  ['lookup', t('shelf.lookups')], ['group', t('shelf.groups')], ['profile', t('shelf.profiles')],
] // prettier-ignore
const kind = ref<ShelfKind | ''>('')
const words = ref('')
const bin = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
const all = computed(() => (bin.value ? shelf.gone.value : (shelf.pieces.value ?? [])))
const is = (piece: ShelfPiece, of: ShelfKind | ''): boolean => !of || piece.kind === of || (of === 'group' && piece.kind === 'recipe')
const shown = computed(() => all.value.filter((piece) => is(piece, kind.value) && piece.asset.name.toLowerCase().includes(words.value.trim().toLowerCase())))
const unused = computed(() => (shelf.pieces.value ?? []).filter((piece) => !piece.used.length && piece.kind !== 'profile'))

async function act(work: () => Promise<unknown>): Promise<boolean> {
  try {
    await work()
    await shelf.refresh()
    return true
  } catch (error) {
    complain(error)
    return false
  }
}

async function remove(piece: ShelfPiece): Promise<void> {
  const { hash, name } = piece.asset
  if (await act(() => api.takeOff(hash))) say(t('shelf.takenOff', { name }), { label: t('shelf.bringItBack'), run: () => void act(() => api.putBack(hash)) })
}
async function clear(): Promise<void> {
  let went: string[] = []
  if (!(await act(async () => (went = await api.clearUnused())))) return
  const back = () => act(() => went.reduce<Promise<unknown>>((before, one) => before.then(() => api.putBack(one)), Promise.resolve()))
  say(t('shelf.cleared', { count: went.length }), { label: t('shelf.bringThemBack'), run: () => void back() })
}
async function replace(piece: ShelfPiece, by: string): Promise<void> {
  let changed = 0
  if (!(await act(async () => (changed = (await api.replaceEverywhere(piece.asset.hash, by)).length)))) return
  emit('changed')
  say(t('shelf.replacedIn', { count: changed }))
}
async function bring(files: File[]): Promise<void> {
  if (files.length) await shelf.bring(files).catch(complain)
}
function chosen(event: Event): void {
  void bring(chosenFiles(event))
}
const drop = async (event: DragEvent) => bring(await dropped(event.dataTransfer))
</script>

<template>
  <section class="shelf" :aria-label="t('shelf.allMaterial')" @dragover.prevent.stop @drop.prevent.stop="drop" @keydown.esc="emit('close')">
    <header>
      <h2>{{ t('shelf.shelf') }}</h2>
      <input v-model="words" class="field find" type="search" :placeholder="t('shelf.findAFile')" :aria-label="t('shelf.findAFile')" />
      <span class="gap" />
      <button v-if="shelf.gone.value.length" class="word" :aria-pressed="bin" @click="bin = !bin">{{ bin ? t('shelf.backToTheShelf') : t('shelf.takenOffCount', { count: shelf.gone.value.length }) }}</button>
      <button v-if="unused.length && !bin" class="word" @click="clear">{{ t('shelf.clearUnused', { count: unused.length }) }}</button>
      <button class="act" @click="chooser?.click()">{{ t('shelf.bringFilesIn') }}</button>
      <button class="word" @click="emit('close')">{{ t('shelf.close') }}</button>
      <input ref="chooser" type="file" multiple hidden @change="chosen" />
    </header>
    <p class="kinds" role="radiogroup" :aria-label="t('shelf.kind')">
      <button v-for="[id, title] in KINDS" :key="id" role="radio" class="option" :aria-checked="kind === id" @click="kind = id">{{ title }}</button>
    </p>

    <section v-if="shelf.refused.value.length" class="refused" role="alert">
      <p v-for="line in shelf.refused.value.slice(0, 8)" :key="line">{{ line }}</p>
      <p v-if="shelf.refused.value.length > 8">{{ t('shelf.andMore', { count: shelf.refused.value.length - 8 }) }}</p>
      <button class="word" @click="shelf.refused.value = []">{{ t('shelf.close') }}</button>
    </section>
    <p v-if="!shown.length" class="none" role="status">{{ all.length ? t('shelf.nothingIsCalledSo') : t('shelf.nothingIsHereYet') }}</p>
    <div class="pieces">
      <ShelfPrint
        v-for="piece in shown" :key="piece.asset.hash" :piece="piece" :off="bin" :uses="props.usesOf(piece)"
        :same="all.filter((one) => one.kind === piece.kind && one !== piece).slice(0, 6)" @use="emit('use', piece, $event)" @cut="emit('cut', piece)"
        @look="emit('look', piece)" @rename="(name) => act(() => api.renameAsset(piece.asset.hash, name))" @remove="remove(piece)"
        @restore="act(() => api.putBack(piece.asset.hash))" @replace="replace(piece, $event)" />
    </div>
  </section>
</template>

<style scoped>
.shelf {
  flex: 1;
  padding: 16px 18px 24px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  margin-bottom: 8px;
}
.find {
  width: 150px;
}
.kinds {
  display: flex;
  gap: 14px;
  margin-bottom: 14px;
}
.gap {
  flex: 1;
}
.refused {
  margin-bottom: 14px;
  padding-left: 10px;
  border-left: 3px solid var(--bad);
  color: var(--bad);
}
.none {
  max-width: 560px;
  color: var(--second);
}
.pieces {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(132px, 1fr));
  gap: 20px 18px;
}
</style>
