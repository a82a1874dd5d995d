<!-- The shelf, closed: what the effect uses of it and weighs, what is being read; files dropped here are kept, and nothing is asked. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { MOST_BYTES as MOST, weight as inWords } from '../../document/layers'
import { t } from '../../words'
import { dropped, useShelf } from './useShelf'

const props = defineProps<{ effect: string; weight: number; cues: number; dials: number }>()
const emit = defineEmits<{ weigh: [] }>()
const open = defineModel<boolean>({ required: true })
/** The sheet of the effect's cues and dials. */
const motions = defineModel<boolean>('motions', { required: true })

const shelf = useShelf()
const over = ref(false)
const used = computed(() => (shelf.pieces.value ?? []).filter((piece) => piece.used.some((one) => one.id === props.effect)).length)
const share = computed(() => Math.min(1, props.weight / MOST))

async function drop(event: DragEvent): Promise<void> {
  over.value = false
  const files = await dropped(event.dataTransfer)
  if (!files.length) return
  open.value = true
  await shelf.bring(files)
}
</script>

<template>
  <section
    class="strip" :class="{ over }" :aria-label="t('shelf.shelf')" @dragover.prevent.stop="over = true" @dragleave="over = false"
    @drop.prevent.stop="drop">
    <button class="name" :aria-expanded="open" title="4" @click="((open = !open), (motions = false))">{{ t('shelf.shelf') }}</button>
    <button class="figure word" :title="t('shelf.whatWeighs')" @click="emit('weigh')">{{ t('shelf.piecesOf', { used, weight: inWords(weight) }) }}</button>
    <span class="bar" role="meter" :aria-label="t('shelf.weightOfTheEffect')" aria-valuemin="0" aria-valuemax="100" :aria-valuenow="Math.round(share * 100)">
      <span :style="{ width: `${share * 100}%` }" :class="{ full: weight > MOST }" />
    </span>
    <button class="name" :aria-expanded="motions" title="5" @click="((motions = !motions), (open = false))">
      {{ t('motions.cuesAndDials') }} <span v-if="cues || dials" class="figure count">{{ cues }} · {{ dials }}</span>
    </button>
    <span class="gap" />
    <template v-if="shelf.reading.value">
      <span role="status" class="told">{{ shelf.told.value }}</span>
      <button class="word" @click="shelf.cancel">{{ t('shelf.cancel') }}</button>
    </template>
    <span v-else class="second">{{ t('shelf.dropFilesHere') }}</span>
    <button class="pull" :aria-label="open ? t('shelf.closeTheShelf') : t('shelf.openTheShelf')" @click="open = !open">{{ open ? '▾' : '▴' }}</button>
  </section>
</template>

<style scoped>
.strip {
  grid-row: 5;
  display: flex;
  gap: 14px;
  align-items: center;
  height: 44px;
  padding: 0 18px;
  border-top: 1px solid var(--line);
  background: var(--chalk);
  white-space: nowrap;
}
.strip.over {
  box-shadow: inset 0 0 0 2px var(--ink);
}
.name {
  font-weight: 650;
}
.count {
  font-weight: 500;
}
.bar {
  width: clamp(60px, 16vw, 260px);
  height: 6px;
  background: var(--line);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--ink);
}
.bar .full {
  background: var(--bad);
}
.gap {
  flex: 1;
}
.told {
  overflow: hidden;
  text-overflow: ellipsis;
}
.second {
  color: var(--second);
}
.pull {
  width: 24px;
  height: 24px;
  color: var(--second);
}
</style>
