<!-- What the open layer does to the face of everybody of the cast, before and after, at the strength that is set; in dusk, too. -->
<script setup lang="ts">
import { onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import { patiently } from '../../api/patiently'
import type { Layer, WornBy } from '../../api/types'
import { useEyes } from '../picture/useEyes'
import { t } from '../../words'

const props = defineProps<{ layer: Layer }>()
const FOLLOW_MS = 400
const { sitting } = useEyes()
const dusk = ref(false)
const row = shallowRef<WornBy[]>([])
let asked = 0
let timer = 0

async function look(mine: number): Promise<void> {
  try {
    const fresh = await patiently(() => api.everybody(props.layer, dusk.value ? 'dusk' : sitting.value.light), () => mine === asked)
    if (mine === asked) row.value = fresh
  } catch {
    // What cannot be made of this layer leaves what was seen last.
  }
}

watch(
  [() => props.layer, dusk, () => sitting.value.light],
  () => {
    window.clearTimeout(timer)
    const mine = ++asked
    timer = window.setTimeout(() => void look(mine), row.value.length ? FOLLOW_MS : 0)
  },
  { immediate: true },
)
onBeforeUnmount(() => {
  asked++
  window.clearTimeout(timer)
})
</script>

<template>
  <section class="everybody" :aria-label="t('desk.everybodysFace')">
    <header>
      <h3>{{ t('desk.everybodysFace') }}</h3>
      <button class="word" :aria-pressed="dusk" @click="dusk = !dusk">{{ t('desk.inDusk') }}</button>
    </header>
    <div class="row">
      <figure v-for="one in row" :key="one.who">
        <img :src="one.before" :alt="t('desk.before', { name: one.name })" width="160" height="160" />
        <img :src="one.after" :alt="t('desk.afterOf', { name: one.name })" width="160" height="160" />
        <figcaption><span>{{ one.name }}</span><span class="figure">{{ one.shift.toFixed(1) }}</span></figcaption>
      </figure>
    </div>
    <p class="second">{{ t('desk.shiftOfSkin') }}</p>
  </section>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
h3 {
  flex: 1;
}
.row {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 10px 8px;
  margin-top: 6px;
}
figure {
  margin: 0;
}
img {
  display: block;
  width: 100%;
  height: auto;
}
figcaption {
  display: flex;
  justify-content: space-between;
  gap: 4px;
  font-size: 12px;
  color: var(--second);
  white-space: nowrap;
  overflow: hidden;
}
.second {
  margin-top: 6px;
  font-size: 12px;
  color: var(--second);
}
</style>
