<!-- Above the light path: the effect's name, whether it is saved, what a key just did, and what is done with the whole effect. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import NameField from '../controls/NameField.vue'
import ExportLinks from '../list/ExportLinks.vue'
import type { Saving } from '../../document/useEffectDocument'
import { usePublishing } from '../showcase/usePublishing'
import type { Hanging } from './HangingSheets.vue'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{
  id: string
  name: string
  saved: string
  saving: Saving
  undo: string | null
  redo: string | null
  takes: number
  settled: () => Promise<void>
}>()
const emit = defineEmits<{ named: [name: string]; undo: []; redo: []; keep: []; hang: [sheet: Hanging] }>()
const takesOpen = defineModel<boolean>('takesOpen', { required: true })

const { keyed } = useMessages()
const naming = ref(false)
const { share } = usePublishing(props.id)
const troubled = computed(() => props.saving === 'waiting' || props.saving === 'refused')
</script>

<template>
  <header class="bar">
    <router-link class="word" to="/" :title="t('workbench.allEffects')">{{ t('workbench.effects') }}</router-link>
    <NameField
      v-if="naming" class="effect-name" :name="name" :aria-label="t('workbench.nameOfTheEffect')" @close="naming = false"
      @named="emit('named', $event)" />
    <h1 v-else><button :title="t('workbench.rename')" @click="naming = true">{{ name || ' ' }}</button></h1>
    <span v-show="!keyed || troubled" class="saved" role="status" :class="{ troubled }">{{ saved }}</span>
    <span class="keyed" role="status">
      <template v-if="keyed">
        <span class="told" :title="keyed.text">{{ keyed.text }}</span>
        <button v-if="keyed.act" class="word" @click="keyed.act.run">{{ keyed.act.label }}</button>
      </template>
    </span>
    <button class="word" :disabled="!undo" :title="undo ? t('workbench.undo', { undo }) : t('workbench.nothingToUndo')" @click="emit('undo')">{{ t('workbench.undo2') }}</button>
    <button class="word" :disabled="!redo" :title="redo ? t('workbench.redo', { redo }) : t('workbench.nothingToRedo')" @click="emit('redo')">{{ t('workbench.redo2') }}</button>
    <button class="word" :title="t('workbench.allKeys')" @click="emit('hang', 'keys')">{{ t('workbench.keys') }}</button>
    <button class="act" :title="t('workbench.keepThisStateAsATake')" @click="emit('keep')">{{ t('workbench.keep') }}</button>
    <button class="act" :title="t('workbench.keptStatesY')" :aria-expanded="takesOpen" @click="takesOpen = !takesOpen">{{ t('workbench.takes') }} <span class="figure">{{ takes }}</span></button>
    <router-link class="word" :to="`/effects/${id}/proof`" :title="t('workbench.everybodyAndEveryLight')">{{ t('workbench.proofSheet') }}</router-link>
    <v-menu>
      <template #activator="{ props: activator }"><button v-bind="activator" class="word">{{ t('workbench.export') }}</button></template>
      <div class="sheet menu-list" role="menu" :aria-label="t('workbench.export')"><ExportLinks :id="id" :settled="settled" /><button role="menuitem" @click="emit('hang', 'check')">{{ t('workbench.checkItFirst') }}</button><button role="menuitem" @click="emit('hang', 'grade')">{{ t('workbench.exportItsGradeAsALookup') }}</button><button role="menuitem" @click="emit('hang', 'film')">{{ t('workbench.downloadAClip') }}</button></div>
    </v-menu>
    <button class="act main" @click="emit('hang', 'publish')">
      <template v-if="share === null">{{ t('workbench.publish') }}</template>
      <span v-else class="share">{{ t('workbench.publishing', { share: Math.round(share * 100) }) }}</span>
    </button>
  </header>
</template>

<style scoped>
/* What a key did may be cut; the button that takes it back never is. */
.keyed {
  display: flex;
  flex: 1;
  gap: 6px;
  white-space: nowrap;
  color: var(--second);
}
.keyed:has(.told) {
  flex-basis: 240px;
}
.keyed .told {
  flex: 1 1 auto;
  contain: inline-size;
  overflow: hidden;
  text-overflow: ellipsis;
}
.keyed .word {
  flex: none;
}
.bar {
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 0 18px;
  border-bottom: 1px solid var(--line);
}
.bar h1 {
  min-width: 80px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bar h1 button {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  font-weight: 650;
}
@media (max-width: 1400px) {
  .bar {
    gap: 12px;
  }
}
.share {
  font-variant-numeric: tabular-nums;
}
.effect-name {
  font-size: 17px;
  font-weight: 650;
}
/* Makes room for what a key did, unless there is trouble; the name is cut before it. */
.saved {
  flex: none;
  max-width: 240px;
  overflow: hidden;
  color: var(--second);
  font-variant-numeric: tabular-nums;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.saved.troubled {
  color: var(--bad);
  font-weight: 650;
}
/* Where there is no room for all, that it is saved goes first. */
@media (max-width: 1150px) {
  .bar {
    gap: 9px;
  }
  .bar h1 {
    min-width: 0;
  }
  .saved {
    flex: 0 1 auto;
  }
  .saved:not(.troubled) {
    display: none;
  }
}
</style>
