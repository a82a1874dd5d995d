<!-- One of a few words, or of many: words in a row where they fit, a list where they do not. -->
<script setup lang="ts">
import { computed } from 'vue'

const props = withDefaults(defineProps<{ name: string; value: string; choices: string[]; words?: Record<string, string> }>(), {
  words: () => ({}),
})
const emit = defineEmits<{ choose: [choice: string] }>()

const shown = (choice: string) => props.words[choice] ?? choice.charAt(0).toUpperCase() + choice.slice(1)
const inRow = computed(() => props.choices.length <= 4 && props.choices.map(shown).join('   ').length <= 34)

function step(event: KeyboardEvent): void {
  const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key]
  if (!by) return
  event.preventDefault()
  const at = props.choices.indexOf(props.value)
  const next = props.choices[(at + by + props.choices.length) % props.choices.length]
  if (next) emit('choose', next)
  const group = event.currentTarget as HTMLElement
  requestAnimationFrame(() => group.querySelector<HTMLElement>('[aria-checked="true"]')?.focus())
}
</script>

<template>
  <div class="choice" :data-control="name">
    <span>{{ name }}</span>
    <span v-if="inRow" class="ways" role="radiogroup" :aria-label="name" @keydown="step">
      <button
        v-for="choice in choices" :key="choice" role="radio" class="way" :aria-checked="choice === value"
        :tabindex="choice === value ? 0 : -1" @click="emit('choose', choice)">
        {{ shown(choice) }}
      </button>
    </span>
    <select v-else class="field" :value="value" :aria-label="name" @change="emit('choose', ($event.target as HTMLSelectElement).value)">
      <option v-for="choice in choices" :key="choice" :value="choice">{{ shown(choice) }}</option>
    </select>
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  grid-template-columns: 104px 1fr;
  column-gap: 14px;
  align-items: center;
  min-height: 34px;
}
.ways {
  display: flex;
  gap: 18px;
}
.way {
  color: var(--second);
  padding-bottom: 2px;
  border-bottom: 2px solid transparent;
  white-space: nowrap;
}
.way[aria-checked='true'] {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--ink);
}
.choice select {
  justify-self: start;
}
</style>
