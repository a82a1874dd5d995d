<!-- A list that is found in by typing: nodes to place, and inputs to wire to. Arrows and Enter choose, Escape closes. -->
<script lang="ts">
export interface Find {
  id: string
  title: string
  family: string
  help: string
  icon?: string
  /** Found by its name alone, not offered before something is typed. */
  typed?: boolean
}
</script>

<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { t } from '../../words'

const props = defineProps<{ items: Find[]; heading: string; x: number; y: number }>()
const emit = defineEmits<{ choose: [id: string]; close: [] }>()

const MOST = 60
const wanted = ref('')
const at = ref(0)
const field = ref<HTMLInputElement | null>(null)
const list = ref<HTMLElement | null>(null)

/** What begins with the words first, then what holds them in its name, then what says them in its help. */
const found = computed(() => {
  const text = wanted.value.trim().toLowerCase()
  const parts = text.split(/\s+/)
  const rank = (one: Find) => {
    const title = one.title.toLowerCase()
    if (title.startsWith(text)) return 0
    if (parts.every((part) => title.includes(part))) return 1
    return parts.every((part) => `${title} ${one.family} ${one.help.toLowerCase()}`.includes(part)) ? 2 : 3
  }
  return props.items
    .filter((one) => text || !one.typed)
    // A node comes before a choice of the same name.
    .map((one) => ({ one, rank: text ? rank(one) + (one.typed ? 0.5 : 0) : 0 }))
    .filter((entry) => entry.rank < 3)
    .sort((a, b) => a.rank - b.rank)
    .slice(0, MOST)
    .map((entry) => entry.one)
})

watch(found, () => (at.value = 0))
onMounted(async () => {
  await nextTick()
  field.value?.focus({ preventScroll: true })
})

function key(event: KeyboardEvent): void {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (step) {
    at.value = Math.min(Math.max(at.value + step, 0), found.value.length - 1)
    void nextTick(() => list.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' }))
  } else if (event.key === 'Enter') {
    const one = found.value[at.value]
    if (one) emit('choose', one.id)
  } else if (event.key === 'Escape') emit('close')
  else return
  event.preventDefault()
  event.stopPropagation()
}

function left(event: FocusEvent): void {
  if (!(event.currentTarget as HTMLElement).contains(event.relatedTarget as Node | null)) emit('close')
}
</script>

<template>
  <div class="finder sheet" role="dialog" :aria-label="heading" :style="{ left: `${x}px`, top: `${y}px` }" @keydown="key" @focusout="left">
    <input
      ref="field" v-model="wanted" class="field" :placeholder="heading" :aria-label="heading" role="combobox" aria-expanded="true"
      aria-controls="finder-list" :aria-activedescendant="found[at] ? `find-${at}` : undefined" spellcheck="false" />
    <ul id="finder-list" ref="list" role="listbox" :aria-label="heading" tabindex="-1">
      <li
        v-for="(one, n) in found" :id="`find-${n}`" :key="one.id" role="option" :aria-selected="n === at" :title="one.help"
        @mousedown.prevent="emit('choose', one.id)" @pointermove="at = n">
        <img v-if="one.icon" :src="one.icon" alt="" width="28" height="28" loading="lazy" />
        <span class="title">{{ one.title }}</span><span class="family">{{ one.family }}</span>
      </li>
    </ul>
    <p v-if="!found.length" class="family" role="status">{{ t('recipe.nothingIsCalledThat') }}</p>
  </div>
</template>

<style scoped>
.finder {
  position: absolute;
  z-index: 20;
  width: 300px;
  padding: 10px 12px;
}
.finder .field {
  width: 100%;
  font-size: 17px;
  margin-bottom: 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 250px;
  overflow: auto;
}
li {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 2px 4px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--chalk);
}
.title {
  font-weight: 650;
  flex: 1;
}
.family {
  color: var(--faint);
  font-size: 12px;
}
</style>
