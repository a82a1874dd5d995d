<!-- Who is before the camera for an icon or a clip: performer, light, script, or what the effect is looked at on. -->
<script setup lang="ts">
import type { Cast, Listing } from '../../api/types'
import { t } from '../../words'

type Seen = Listing['icon']['seen']
defineProps<{ seen: Seen; cast: Cast | null; own: boolean }>()
const emit = defineEmits<{ change: [seen: Seen] }>()
</script>

<template>
  <span class="seen">
    <select class="field" :aria-label="t('showcase.who')" :value="seen.own ? 'own' : seen.who" @change="emit('change', { ...seen, own: ($event.target as HTMLSelectElement).value === 'own', who: ($event.target as HTMLSelectElement).value === 'own' ? seen.who : ($event.target as HTMLSelectElement).value })">
      <option v-if="own" value="own">{{ t('showcase.ownFootage') }}</option>
      <option v-for="one in cast?.people" :key="one.key" :value="one.key">{{ one.title }}</option>
    </select>
    <select v-if="!seen.own" class="field" :aria-label="t('showcase.light')" :value="seen.light" @change="emit('change', { ...seen, light: ($event.target as HTMLSelectElement).value })">
      <option v-for="one in cast?.lights" :key="one.key" :value="one.key">{{ one.title }}</option>
    </select>
    <select v-if="!seen.own" class="field" :aria-label="t('showcase.script')" :value="seen.script" @change="emit('change', { ...seen, script: ($event.target as HTMLSelectElement).value })">
      <option v-for="one in cast?.scripts" :key="one.key" :value="one.key">{{ one.title }}</option>
    </select>
  </span>
</template>

<style scoped>
.seen {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
}
.seen select {
  max-width: 150px;
}
</style>
