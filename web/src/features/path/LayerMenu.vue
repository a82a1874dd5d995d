<!-- What can be done with the open layer as a whole. -->
<script setup lang="ts">
import { t } from '../../words'
defineProps<{ soloed: boolean }>()
const emit = defineEmits<{ act: [name: 'rename' | 'group' | 'duplicate' | 'copy' | 'paste' | 'solo' | 'remove'] }>()

const ACTS = [
  ['rename', t('path.rename'), 'N'], ['duplicate', t('path.duplicate'), 'D'], ['group', t('path.groupWithTheMarkedOnes'), 'P'], ['solo', t('path.onlyThisLayer'), 'X'], ['copy', t('path.copy'), t('path.ctrlC')],
  ['paste', t('path.pasteACopiedLayer'), t('path.ctrlV')], ['remove', t('path.remove'), 'Delete'],
] as const // prettier-ignore
</script>

<template>
  <v-menu>
    <template #activator="{ props: activator }">
      <button v-bind="activator" class="word">{{ t('path.layer') }}</button>
    </template>
    <div class="sheet menu" role="menu" :aria-label="t('path.layer')">
      <button v-for="[name, title, key] in ACTS" :key="name" role="menuitem" class="item" @click="emit('act', name)">
        <span>{{ name === 'solo' && soloed ? t('path.allLayersAgain') : title }}</span><span class="figure key">{{ key }}</span>
      </button>
    </div>
  </v-menu>
</template>

<style scoped>
.menu {
  display: flex;
  flex-direction: column;
  min-width: 220px;
  padding: 6px 0;
}
.item {
  display: flex;
  justify-content: space-between;
  gap: 20px;
  padding: 4px 14px;
  text-align: left;
}
.item:hover,
.item:focus-visible {
  background: var(--chalk);
}
.key {
  color: var(--faint);
  font-size: 12px;
}
</style>
