<!-- What can be added to the light path: ready-made layers by family, each with its picture; found by typing. -->
<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'
import type { LayerKind } from '../../api/types'
import { t } from '../../words'
import { firstOf, foundIn } from './finding'

const props = defineProps<{ kinds: LayerKind[] }>()
const emit = defineEmits<{ add: [kind: LayerKind | null] }>()

const wanted = ref('')
const field = ref<HTMLInputElement | null>(null)
const sheet = ref<HTMLElement | null>(null)

const groups = computed(() => foundIn(props.kinds, wanted.value))

onMounted(async () => {
  await nextTick()
  field.value?.focus()
})

const own = computed(() => t('path.ownEmptyRecipeNodesWires').includes(wanted.value.toLowerCase().trim()))

function first(): void {
  const kind = firstOf(groups.value, wanted.value)
  if (kind) emit('add', kind)
  else if (own.value) emit('add', null)
}

/** Arrows go through what is shown, as it stands; up from the first goes back to typing. */
function key(event: KeyboardEvent): void {
  const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key]
  if (!step || (event.target === field.value && event.key !== 'ArrowDown')) return
  event.preventDefault()
  event.stopPropagation()
  const items = [...(sheet.value?.querySelectorAll<HTMLElement>('.kind') ?? [])]
  const to = items.indexOf(document.activeElement as HTMLElement) + step
  if (to < 0) field.value?.focus()
  else items[Math.min(to, items.length - 1)]?.focus()
}
</script>

<template>
  <div ref="sheet" class="palette" role="dialog" :aria-label="t('path.layersToAdd')" @keydown="key">
    <input
      ref="field" v-model="wanted" class="field find" :placeholder="t('path.typeToFindALayer')" :aria-label="t('path.findALayer')" spellcheck="false"
      @keydown.enter.prevent="first" />
    <p v-if="!groups.length && !own" class="none" role="status">{{ t('path.noLayerIsCalledThatOr') }}</p>
    <div class="groups" role="menu" :aria-label="t('path.layers')">
      <section v-for="group in groups" :key="group.name" role="group" :aria-label="group.name">
        <h3 aria-hidden="true">{{ group.name }}</h3>
        <button v-for="kind in group.kinds" :key="kind.kind" role="menuitem" class="kind" :title="[kind.help, kind.also.length ? t('path.alsoCalled', { also: kind.also.join(', ') }) : ''].filter(Boolean).join('; ')" @click="emit('add', kind)">
          <img :src="`/api/layers/${kind.kind}/icon`" alt="" width="34" height="34" loading="lazy" />
          <span>{{ kind.name }}</span>
        </button>
      </section>
      <section v-if="own" role="group" :aria-label="t('path.own')">
        <h3 aria-hidden="true">{{ t('path.own') }}</h3>
        <button role="menuitem" class="kind" :title="t('path.nodesAndWiresFromTheBeginning')" @click="emit('add', null)">
          <i class="blank" /><span>{{ t('path.emptyRecipe') }}</span>
        </button>
      </section>
    </div>
  </div>
</template>

<style scoped>
.palette {
  background: var(--paper);
  border: 1px solid var(--line);
  width: min(820px, 94vw);
  max-height: min(590px, 74vh);
  overflow: auto;
  padding: 14px 18px 18px;
}
.find {
  width: 100%;
  margin-bottom: 10px;
  font-size: 17px;
}
.none {
  color: var(--second);
}
.groups {
  columns: 4;
  column-gap: 22px;
}
section {
  break-inside: avoid;
  padding-bottom: 12px;
}
h3 {
  font-size: 12px;
  font-weight: 500;
  color: var(--second);
  margin: 4px 0;
}
.kind {
  display: flex;
  align-items: center;
  gap: 10px;
  width: 100%;
  padding: 2px 4px;
  text-align: left;
}
.kind img,
.blank {
  display: block;
}
.blank {
  width: 34px;
  height: 34px;
  border: 1px dashed var(--faint);
}
.kind:hover,
.kind:focus-visible {
  background: #efece4;
}
.kind span {
  font-weight: 650;
}
</style>
