<!-- Takes: kept states to flip to, compare side by side, and go back to; and every step that led here. -->
<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Effect, HistoryStep } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{ id: string; revision: number; settled: () => Promise<void> }>()
const emit = defineEmits<{
  /** Show a state while it is held; null lets go. */
  flip: [effect: Effect | null]
  beside: [name: string, effect: Effect]
  back: [revision: number]
  count: [takes: number]
}>()
const open = defineModel<boolean>({ required: true })

const { complain } = useMessages()
const steps = shallowRef<HistoryStep[]>([])
const all = ref(false)
const takes = computed(() => steps.value.filter((step) => step.take))
const shown = computed(() => (all.value ? steps.value : takes.value))
const when = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', day: 'numeric', month: 'short' })

async function refresh(): Promise<void> {
  try {
    steps.value = await api.history(props.id)
    emit('count', takes.value.length)
  } catch (error) {
    complain(error)
  }
}
watch(open, (now) => now && void refresh())
// Once when the effect is there, for the number of its takes; then only while one looks.
watch(() => props.revision, (_, before) => (open.value || !before) && void refresh()) // prettier-ignore

async function act(work: () => Promise<unknown>): Promise<void> {
  try {
    await work()
    await refresh()
  } catch (error) {
    complain(error)
  }
}

/** Keep the effect as it stands as a take. */
async function keep(): Promise<void> {
  await props.settled()
  await act(async () => {
    const head = (await api.history(props.id)).find((step) => step.is_head)
    if (head) await api.nameTake(props.id, head.revision, head.take ?? t('takes.take', { count: takes.value.length + 1 }))
  })
}
const rename = (step: HistoryStep, name: string) => act(() => api.nameTake(props.id, step.revision, name.trim() || null))

/** A name that is being typed stays when the list comes anew meanwhile. */
const typed = ref<{ revision: number; name: string } | null>(null)
async function keepName(step: HistoryStep): Promise<void> {
  const done = typed.value
  if (!done) return
  await rename(step, done.name)
  // What was typed on meanwhile stays, too.
  if (typed.value === done) typed.value = null
}

async function load(step: HistoryStep): Promise<Effect | null> {
  try {
    return (await api.revision(props.id, step.revision)) as Effect
  } catch (error) {
    complain(error)
    return null
  }
}
let holding = false
async function hold(step: HistoryStep): Promise<void> {
  holding = true
  const effect = await load(step)
  if (effect && holding) emit('flip', effect)
}
function letGo(): void {
  if (holding) emit('flip', null)
  holding = false
}
async function beside(step: HistoryStep): Promise<void> {
  const effect = await load(step)
  if (effect) emit('beside', step.take ?? step.gesture, effect)
}
/** The latest take, flipped to while a key is held. */
const flipLatest = () => void (takes.value[0] && hold(takes.value[0]))

defineExpose({ keep, flipLatest, letGo })
</script>

<template>
  <section v-if="open" class="sheet hanging takes" :aria-label="t('takes.takesAndHistory')">
    <header>
      <h2>{{ t('takes.takes') }}</h2>
      <button class="act" title="K" @click="keep">{{ t('takes.keepThisState') }}</button>
      <span class="gap" />
      <label class="all"><input v-model="all" type="checkbox" /> {{ t('takes.everyStep') }}</label>
      <button class="word" @click="open = false">{{ t('takes.close') }}</button>
    </header>
    <p v-if="!shown.length" class="none">{{ t('takes.noTakesYetKeepTheEffect') }}</p>
    <ul>
      <li v-for="step in shown" :key="step.revision" :class="{ head: step.is_head }">
        <input
          v-if="step.take" class="field" :value="typed?.revision === step.revision ? typed.name : step.take" maxlength="80"
          :aria-label="t('takes.nameOf', { take: step.take })" @input="typed = { revision: step.revision, name: ($event.target as HTMLInputElement).value }"
          @change="keepName(step)" />
        <span v-else class="gesture">{{ step.gesture }}</span>
        <span class="when">{{ step.is_head ? t('takes.now') : when.format(new Date(step.created)) }}</span>
        <span class="acts">
          <button
            class="word hold" :title="t('takes.holdToSeeIt')" @pointerdown="hold(step)" @pointerup="letGo" @pointerleave="letGo" @keydown.enter.prevent="!$event.repeat && hold(step)"
            @keyup.enter="letGo">
            {{ t('takes.flip') }}
          </button>
          <button class="word" @click="beside(step)">{{ t('takes.beside') }}</button>
          <button class="word" :disabled="step.is_head" @click="emit('back', step.revision)">{{ t('takes.goBackToIt') }}</button>
          <button v-if="!step.take" class="word" @click="rename(step, step.gesture.slice(0, 80))">{{ t('takes.nameIt') }}</button>
          <button v-else class="word" @click="rename(step, '')">{{ t('takes.forget') }}</button>
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 16px;
  align-items: center;
  margin-bottom: 8px;
}
.gap {
  flex: 1;
}
.all {
  display: flex;
  gap: 6px;
  align-items: center;
}
.none {
  color: var(--second);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 100px auto;
  gap: 14px;
  align-items: baseline;
  padding: 5px 0;
  border-top: 1px solid #ece7db;
}
.gesture {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.field,
.head .gesture {
  font-weight: 650;
}
.when {
  color: var(--second);
  font-size: 12px;
}
.acts {
  display: flex;
  gap: 12px;
}
.hold {
  touch-action: none;
  user-select: none;
}
</style>
