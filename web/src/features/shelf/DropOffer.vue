<!-- A picture was dropped that is no lookup: what it can be. -->
<script setup lang="ts">
import { t } from '../../words'
defineProps<{ file: File | null; lookup: boolean; uses: { id: string; title: string; help: string }[] }>()
const emit = defineEmits<{ choose: [id: string]; close: [] }>()
</script>

<template>
  <v-dialog :model-value="file !== null" max-width="480" @update:model-value="emit('close')">
    <section v-if="file" class="sheet offer" :aria-label="t('shelf.whatThePictureShallBe')">
      <h2>{{ file.name }}</h2>
      <p>{{ lookup ? t('shelf.itMayBeAGradedLookup') : t('shelf.itIsAPictureNotA') }}</p>
      <button v-for="use in uses" :key="use.id" class="use" @click="emit('choose', use.id)">
        <b>{{ use.title }}</b><span>{{ use.help }}</span>
      </button>
      <button class="word" @click="emit('close')">{{ t('shelf.leaveIt') }}</button>
    </section>
  </v-dialog>
</template>

<style scoped>
.offer {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 20px 24px;
  align-items: flex-start;
}
.use {
  display: flex;
  flex-direction: column;
  text-align: left;
  width: 100%;
  padding: 6px 8px;
  border: 1px solid var(--line);
}
.use:hover {
  border-color: var(--second);
}
.use span {
  color: var(--second);
}
</style>
