<!-- Something was dropped that can be several things: what it shall be. It hangs over path and desk, not over the picture. -->
<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import type { ShelfPiece } from '../../api/types'
import { t } from '../../words'
import type { Use } from './useMaterial'

const props = defineProps<{ piece: ShelfPiece | null; unsure: boolean; uses: Use[] }>()
const emit = defineEmits<{ choose: [id: string]; close: [] }>()

const sheet = ref<HTMLElement | null>(null)
watch(
  () => props.piece,
  async (now) => {
    if (!now) return
    await nextTick()
    sheet.value?.querySelector<HTMLElement>('.use')?.focus()
  },
)
</script>

<template>
  <section v-if="piece" ref="sheet" class="sheet hanging offer" role="dialog" :aria-label="t('shelf.whatThePictureShallBe')" @keydown.esc.stop="emit('close')">
    <header>
      <img v-if="!['group', 'recipe', 'profile'].includes(piece.kind)" :src="`/api/assets/${piece.asset.hash}/print`" alt="" />
      <div>
        <h2>{{ piece.asset.name }}</h2>
        <p>{{ unsure ? t('shelf.itMayBeAGradedLookup') : t('shelf.itIsOnTheShelfNow') }}</p>
      </div>
      <button class="word" @click="emit('close')">{{ t('shelf.leaveItThere') }}</button>
    </header>
    <div class="uses">
      <button v-for="use in uses" :key="use.id" class="use" @click="emit('choose', use.id)">
        <b>{{ use.title }}</b><span>{{ use.help }}</span>
      </button>
    </div>
  </section>
</template>

<style scoped>
header {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 14px;
  align-items: start;
  margin-bottom: 12px;
}
header img {
  width: 64px;
  height: 64px;
  object-fit: contain;
  background: var(--chalk);
}
.uses {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 14px;
}
.use {
  display: flex;
  flex-direction: column;
  padding: 5px 8px 7px;
  text-align: left;
  border-top: 1px solid var(--line);
}
.use:hover,
.use:focus-visible {
  background: var(--chalk);
}
.use span {
  color: var(--second);
  font-size: 12px;
}
</style>
