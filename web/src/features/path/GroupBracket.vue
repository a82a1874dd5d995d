<!-- The bracket above layers that stand in a group: its name, one switch for all, and folding them to one tile. -->
<script setup lang="ts">
import { ref } from 'vue'
import type { LayerGroup } from '../../api/types'
import NameField from '../controls/NameField.vue'
import { t } from '../../words'

const props = defineProps<{ group: LayerGroup; folded: boolean }>()
const emit = defineEmits<{
  change: [gesture: string, values: Partial<LayerGroup>]
  move: [step: -1 | 1]
  fold: []
  dissolve: []
}>()

const naming = ref(false)

function turn(): void {
  emit('change', `Switch ${props.group.name} ${props.group.on ? 'off' : 'on'}`, { on: !props.group.on })
}

function key(event: KeyboardEvent): void {
  const acts: Record<string, (() => void) | undefined> = {
    o: turn,
    n: () => (naming.value = true),
    delete: () => emit('dissolve'),
    arrowleft: event.shiftKey ? () => emit('move', -1) : undefined,
    arrowright: event.shiftKey ? () => emit('move', 1) : undefined,
  }
  const act = acts[event.key.toLowerCase()]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  act()
}
</script>

<template>
  <div class="bracket" :class="{ off: !group.on }" :data-group="group.id">
    <button class="switch" :aria-pressed="group.on" :aria-label="`${group.on ? t('path.switchOff') : t('path.switchOn')} ${group.name}`" @click="turn" />
    <NameField
      v-if="naming" class="naming" :name="group.name" :aria-label="t('path.nameOfTheGroup')" @close="naming = false"
      @named="emit('change', `Rename ${group.name} to ${$event}`, { name: $event })" />
    <button
      v-else class="title" :aria-expanded="!folded" :title="t('path.clickFoldsItOSwitchesN')"
      @click="emit('fold')" @dblclick="naming = true" @keydown="key">
      {{ group.name }}
    </button>
  </div>
</template>

<style scoped>
.bracket {
  position: absolute;
  left: -8px;
  right: -8px;
  top: -24px;
  height: 18px;
  display: flex;
  align-items: center;
  gap: 6px;
  border: 1.5px solid var(--ink);
  border-width: 0 1.5px;
  white-space: nowrap;
  font-size: 12px;
}
.bracket::before {
  content: '';
  position: absolute;
  inset: 0 0 auto;
  border-top: 1.5px solid var(--ink);
}
.bracket.off {
  color: var(--faint);
  border-color: var(--faint);
}
.switch {
  position: relative;
  flex: none;
  width: 11px;
  height: 11px;
  margin-left: 7px;
  border: 2.5px solid var(--glaze);
  border-radius: 50%;
  background: var(--paper);
}
.switch::after {
  content: '';
  position: absolute;
  inset: -8px;
}
.off .switch {
  border-color: #96907f;
}
.title {
  overflow: hidden;
  text-overflow: ellipsis;
  font-weight: 650;
}
.off .title {
  text-decoration: line-through;
}
.naming {
  min-width: 0;
  flex: 1;
  height: 18px;
  font-size: 12px;
}
</style>
