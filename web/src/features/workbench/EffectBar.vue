<!-- Above the light path: the effect's name, whether it is saved, what a key just did, and what is done with the whole effect. -->
<script setup lang="ts">
import { ref } from 'vue'
import NameField from '../controls/NameField.vue'
import ExportLinks from '../list/ExportLinks.vue'
import type { Saving } from '../../document/useEffectDocument'
import { useMessages } from '../messages/useMessages'

defineProps<{
  id: string
  name: string
  saved: string
  saving: Saving
  undo: string | null
  redo: string | null
  takes: number
  publishing: boolean
  settled: () => Promise<void>
}>()
const emit = defineEmits<{ named: [name: string]; undo: []; redo: []; keys: []; keep: []; grade: []; publish: [] }>()
const takesOpen = defineModel<boolean>('takesOpen', { required: true })

const { keyed } = useMessages()
const naming = ref(false)
</script>

<template>
  <header class="bar">
    <router-link class="word" to="/" title="All effects">Effects</router-link>
    <NameField
      v-if="naming" class="effect-name" :name="name" aria-label="Name of the effect" @close="naming = false"
      @named="emit('named', $event)" />
    <h1 v-else><button title="Rename" @click="naming = true">{{ name || ' ' }}</button></h1>
    <span class="saved" role="status" :class="{ waiting: saving === 'waiting' || saving === 'refused' }">{{ saved }}</span>
    <span class="keyed" role="status">
      <template v-if="keyed">
        <span class="told" :title="keyed.text">{{ keyed.text }}</span>
        <button v-if="keyed.act" class="word" @click="keyed.act.run">{{ keyed.act.label }}</button>
      </template>
    </span>
    <button class="word" :disabled="!undo" :title="undo ? `Undo: ${undo}` : 'Nothing to undo'" @click="emit('undo')">Undo</button>
    <button class="word" :disabled="!redo" :title="redo ? `Redo: ${redo}` : 'Nothing to redo'" @click="emit('redo')">Redo</button>
    <button class="word" title="All keys (?)" @click="emit('keys')">Keys</button>
    <button class="act" title="Keep this state as a take (K)" @click="emit('keep')">Keep</button>
    <button class="act" title="Kept states (Y)" :aria-expanded="takesOpen" @click="takesOpen = !takesOpen">Takes <span class="figure">{{ takes }}</span></button>
    <v-menu>
      <template #activator="{ props: activator }"><button v-bind="activator" class="word">Export</button></template>
      <div class="sheet menu-list" role="menu" aria-label="Export"><ExportLinks :id="id" :settled="settled" /><button role="menuitem" @click="emit('grade')">Export its grade as a lookup …</button></div>
    </v-menu>
    <button class="act main" :disabled="publishing" @click="emit('publish')">{{ publishing ? 'Packing …' : 'Publish' }}</button>
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
@media (max-width: 1100px) {
  .bar {
    gap: 12px;
  }
}
.effect-name {
  font-size: 17px;
  font-weight: 650;
}
.saved {
  color: var(--second);
  white-space: nowrap;
}
.saved.waiting {
  color: var(--bad);
  font-weight: 650;
}
</style>
