<!-- A picture of the artist's own: chosen from the shelf or a file, dropped, shown small. What moves has its way of playing here; a
photo may be left to the wearer. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Asset, Plain, ShelfPiece } from '../../api/types'
import { assetOf, chosen, isPicture, isWearers, ORDERS, playedOf } from '../../document/material'
import { useMessages } from '../messages/useMessages'
import { useAsset } from '../shelf/useAsset'
import { useClip } from '../shelf/useClip'
import { t } from '../../words'
import { useMotions } from '../motions/useMotions'
import ChoiceControl from './ChoiceControl.vue'
import RulerControl from './RulerControl.vue'
import ShelfChoice from './ShelfChoice.vue'

/** `template`: what is handed out to paint its picture on. */
const props = defineProps<{ name: string; control: string; value: Plain; template: 'face' | null }>()
const emit = defineEmits<{ choose: [value: Plain, asset?: Asset]; turn: [value: Plain]; commit: [] }>()

const { say } = useMessages()
const clip = useClip()
const hash = computed(() => assetOf(props.value))
const asset = useAsset(() => hash.value)
const played = computed(() => playedOf(props.value))
const wearers = computed(() => isWearers(props.value))

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
const motions = useMotions()
/** What may start a sequence. */
const starts = computed<[string, string][]>(() => [['', t('controls.withTheEffect')], ...(motions?.cues.value.own ?? []), ...(motions?.cues.value.kinds ?? [])])
const wear = () => emit('choose', wearers.value ? hash.value : { wearer: true, asset: asset.value?.picture ? hash.value : null })
</script>

<template>
  <ShelfChoice :name="name" :hash="hash" :asset="asset" :fits="isPicture" :choose="t('controls.chooseAPicture')" :removable="wearers" @take="take" @remove="emit('choose', null)">
    <span v-if="template" class="handed second">
      {{ t('controls.templateToPaintOn') }}
      <a v-for="ending in ['png', 'svg', 'tiff']" :key="ending" class="word" :href="`/api/templates/${template}.${ending}`" :download="`${template}-template.${ending}`">{{ ending.toUpperCase() }}</a>
    </span>
    <label v-if="!played" class="wears"><input type="checkbox" :checked="wearers" @change="wear" /> {{ wearers ? t('controls.theWearerChoosesItThis') : t('controls.theWearersOwnPhoto') }}</label>
  </ShelfChoice>
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
.handed {
  grid-column: 2;
  display: flex;
  gap: 10px;
  font-size: 12px;
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
</style>
