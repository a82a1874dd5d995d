<!-- A picture of the artist's own: chosen from the shelf or a file, dropped, shown small. What moves has its way of playing here; a
photo may be left to the wearer. -->
<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Asset, Plain, ShelfPiece } from '../../api/types'
import { assetOf, chosen, isPicture, isWearers, ORDERS, playedOf } from '../../document/material'
import { useMessages } from '../messages/useMessages'
import { dropped, pieceDragged, useShelf } from '../shelf/useShelf'
import { useClip } from '../shelf/useClip'
import { t } from '../../words'
import { useMotions } from '../motions/useMotions'
import ChoiceControl from './ChoiceControl.vue'
import RulerControl from './RulerControl.vue'

/** `template`: what is handed out to paint its picture on. */
const props = defineProps<{ name: string; control: string; value: Plain; template: 'face' | null }>()
const emit = defineEmits<{ choose: [value: Plain, asset?: Asset]; turn: [value: Plain]; commit: [] }>()

const MOST_LISTED = 24
const { complain, say } = useMessages()
const shelf = useShelf()
const clip = useClip()
const chooser = ref<HTMLInputElement | null>(null)
const asset = shallowRef<Asset | null>(null)
const busy = ref('')
const hash = computed(() => assetOf(props.value))
const played = computed(() => playedOf(props.value))
const wearers = computed(() => isWearers(props.value))
const listed = computed(() => (shelf.pieces.value ?? []).filter(isPicture).slice(0, MOST_LISTED))

watch(
  hash,
  async (now) => (asset.value = now ? await api.asset(now).catch(() => null) : null),
  { immediate: true },
)

function choose(one: Asset): void {
  // A photo of the festival's stands in for the wearer's, until another does.
  if (wearers.value && one.picture) emit('choose', { wearer: true, asset: one.hash }, one)
  else emit('choose', chosen(one), one)
}
function take(piece: ShelfPiece): void {
  if (isPicture(piece)) choose(piece.asset)
  else if (piece.kind === 'footage') clip.open(piece.asset, props.control)
  else say(t('controls.isNoPicture', { name: piece.asset.name }))
}
async function bring(files: File[]): Promise<void> {
  if (!files.length) return
  busy.value = files[0]?.name ?? ''
  try {
    const [come] = await shelf.bring(files)
    if (come) take(come.piece)
    if (!come && shelf.refused.value[0]) say(shelf.refused.value[0])
  } catch (error) {
    complain(error)
  } finally {
    busy.value = ''
  }
}
async function drop(event: DragEvent): Promise<void> {
  const piece = pieceDragged(event.dataTransfer)
  if (piece) take(piece)
  else await bring(await dropped(event.dataTransfer))
}
function picked(event: Event): void {
  const field = event.target as HTMLInputElement
  const files = [...(field.files ?? [])]
  field.value = ''
  void bring(files)
}
const motions = useMotions()
/** What may start a sequence. */
const starts = computed<[string, string][]>(() => [['', t('controls.withTheEffect')], ...(motions?.cues.value.own ?? []), ...(motions?.cues.value.kinds ?? [])])
const wear = () => emit('choose', wearers.value ? hash.value : { wearer: true, asset: asset.value?.picture ? hash.value : null })
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
        <template #activator="{ props: activator }"><button v-bind="activator" :class="hash ? 'word' : 'act'">{{ hash ? t('controls.replace') : t('controls.chooseAPicture') }}</button></template>
        <div class="sheet menu-list choices" role="menu" :aria-label="t('controls.chooseAPicture')">
          <button role="menuitem" @click="chooser?.click()">{{ t('controls.aFile') }}</button>
          <button v-for="piece in listed" :key="piece.asset.hash" role="menuitem" class="piece" @click="take(piece)">
            <img :src="`/api/assets/${piece.asset.hash}/print`" alt="" loading="lazy" /><span>{{ piece.asset.name }}</span><span class="second figure">{{ piece.asset.sequence ? t('controls.frames', { frames: piece.asset.sequence.frames }) : '' }}</span>
          </button>
        </div>
      </v-menu>
      <button v-if="hash || wearers" class="word" @click="emit('choose', null)">{{ t('controls.remove') }}</button>
      <span v-else class="second">{{ t('controls.orDropOneHere') }}</span>
    </span>
    <span v-if="template" class="handed second">
      {{ t('controls.templateToPaintOn') }}
      <a v-for="ending in ['png', 'svg', 'tiff']" :key="ending" class="word" :href="`/api/templates/${template}.${ending}`" :download="`${template}-template.${ending}`">{{ ending.toUpperCase() }}</a>
    </span>
    <label v-if="!played" class="wears"><input type="checkbox" :checked="wearers" @change="wear" /> {{ wearers ? t('controls.theWearerChoosesItThis') : t('controls.theWearersOwnPhoto') }}</label>
  </div>
  <div v-if="played" class="playing">
    <ChoiceControl :name="t('controls.plays')" :value="played.order" :choices="[...ORDERS]" @choose="emit('choose', { ...played, order: $event })" />
    <ChoiceControl :name="t('controls.begins')" :value="played.cue ?? ''" :choices="starts.map(([id]) => id)" :words="Object.fromEntries(starts)" @choose="emit('choose', { ...played, cue: $event ? (motions?.owned($event) ?? $event) : null })" />
    <RulerControl
      :name="t('controls.aSecond')" :value="played.rate" :neutral="asset?.sequence?.rate ?? 12" :low="0" :high="60" :scale="1" unit="/s"
      @turn="emit('turn', { ...played, rate: $event })" @commit="emit('commit')" />
    <RulerControl
      :name="t('controls.isAheadBy')" :value="played.shift" :neutral="0" :low="-10" :high="10" :scale="1" unit="s"
      @turn="emit('turn', { ...played, shift: $event })" @commit="emit('commit')" />
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
.wears {
  grid-column: 2;
  color: var(--second);
  font-size: 12px;
}
.playing {
  margin-left: 14px;
  padding-left: 12px;
  border-left: 1px solid var(--line);
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
