<!-- Effects that were deleted: each can be brought back as it was. -->
<script setup lang="ts">
import type { DeletedEffect } from '../../api/types'
import { t } from '../../words'

defineProps<{ deleted: DeletedEffect[] }>()
const emit = defineEmits<{ restore: [id: string] }>()
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <section class="surround bin" :aria-label="t('list.deletedEffects')">
    <p class="lead">{{ t('list.nothingOfTheseIsLostEach') }}</p>
    <ul>
      <li v-for="one in deleted" :key="one.id">
        <span class="name">{{ one.name }}</span>
        <span class="when">{{ t('list.deleted', { value: when.format(new Date(one.deleted)) }) }}</span>
        <button class="word" @click="emit('restore', one.id)">{{ t('list.bringItBack') }}</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.bin {
  padding: 28px 36px;
  background: var(--surround);
  color: #fff;
}
.lead {
  margin-bottom: 18px;
}
li {
  display: grid;
  grid-template-columns: minmax(160px, 320px) 230px auto;
  gap: 20px;
  align-items: baseline;
  padding: 8px 0;
}
.name {
  font-size: 17px;
  font-weight: 650;
  overflow-wrap: anywhere;
}
.when {
  font-size: 13px;
}
.bin .word {
  color: #fff;
  justify-self: start;
}
</style>
