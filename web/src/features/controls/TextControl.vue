<!-- Words on the picture, with their letters: font, weight, how they stand, and after how many ems a line wraps. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Plain } from '../../api/types'
import ChoiceControl from './ChoiceControl.vue'
import RulerControl from './RulerControl.vue'
import { t } from '../../words'

interface Text {
  text: string
  font: string
  weight: number
  align: string
  width: number
}
const props = defineProps<{ name: string; value: Plain }>()
const emit = defineEmits<{ turn: [value: Plain]; commit: [] }>()

const text = computed<Text>(() => ({ text: '', font: 'words', weight: 650, align: 'centre', width: 12, ...(props.value as object | null) }))

function put(change: Partial<Text>): void {
  emit('turn', { ...text.value, ...change })
}
function choose(change: Partial<Text>): void {
  put(change)
  emit('commit')
}
</script>

<template>
  <div class="text" :data-control="name">
    <label class="line">
      <span>{{ name }}</span>
      <textarea
        class="field" rows="2" maxlength="400" :value="text.text" :aria-label="name" spellcheck="false"
        @input="put({ text: ($event.target as HTMLTextAreaElement).value })" @change="emit('commit')" />
    </label>
    <ChoiceControl :name="t('controls.letters')" :value="text.font" :choices="['words', 'figures']" @choose="choose({ font: $event })" />
    <ChoiceControl :name="t('controls.stands')" :value="text.align" :choices="['left', 'centre', 'right']" @choose="choose({ align: $event })" />
    <RulerControl
      :name="t('controls.weight')" :value="text.weight" :neutral="650" :low="400" :high="900" :scale="1" unit="" whole @turn="put({ weight: $event })"
      @commit="emit('commit')" />
    <RulerControl
      :name="t('controls.wrapsAfter')" :value="text.width" :neutral="12" :low="3" :high="30" :scale="1" unit="em" @turn="put({ width: $event })"
      @commit="emit('commit')" />
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  column-gap: 14px;
  align-items: start;
}
textarea {
  resize: vertical;
  font: inherit;
  font-weight: 650;
}
</style>
