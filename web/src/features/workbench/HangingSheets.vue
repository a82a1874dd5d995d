<!-- Sheets that hang below the bar, one at a time: each is loaded when it is first opened, and keeps what was chosen on it. -->
<script lang="ts">
export type Hanging = 'keys' | 'weight' | 'publish' | 'film' | 'check' | 'grade'
</script>
<script setup lang="ts">
import { computed, defineAsyncComponent, reactive, watch, type WritableComputedRef } from 'vue'
import { shownNext } from '../showcase/usePublishing'
import type { Sitting } from '../../camera/standin'
import type { Effect, Layer } from '../../api/types'

const KeySheet = defineAsyncComponent(() => import('./KeySheet.vue'))
const WeightSheet = defineAsyncComponent(() => import('../shelf/WeightSheet.vue'))
const PublishSheet = defineAsyncComponent(() => import('../showcase/PublishSheet.vue'))
const FilmSheet = defineAsyncComponent(() => import('../list/FilmSheet.vue'))
const CheckSheet = defineAsyncComponent(() => import('../showcase/CheckSheet.vue'))
const GradeSheet = defineAsyncComponent(() => import('../list/GradeSheet.vue'))

const props = defineProps<{ id: string; effect: Effect; layers: Layer[]; screen: string; sitting: Sitting; weight: number; settled: () => Promise<void> }>()
const emit = defineEmits<{ show: [layer: string]; tidy: []; replace: [gesture: string, by: Map<string, string>] }>()
const hanging = defineModel<Hanging | null>({ required: true })

/** Those that were open once. */
const seen = reactive(new Set<Hanging>())
watch(hanging, (now) => now && seen.add(now), { immediate: true })
watch(shownNext, (effect) => effect === props.id && (hanging.value = 'publish'), { immediate: true })

function isOpen(sheet: Hanging): WritableComputedRef<boolean> {
  return computed({
    get: () => hanging.value === sheet,
    set: (open) => {
      if (open) hanging.value = sheet
      else if (hanging.value === sheet) hanging.value = null
    },
  })
}
const [keys, weighing, publish, film, check, grade] = [isOpen('keys'), isOpen('weight'), isOpen('publish'), isOpen('film'), isOpen('check'), isOpen('grade')]
</script>

<template>
  <WeightSheet v-if="seen.has('weight')" v-model="weighing" :effect="id" :weight="weight" @replace="(gesture, by) => emit('replace', gesture, by)" />
  <KeySheet v-if="seen.has('keys')" v-model="keys" />
  <PublishSheet v-if="seen.has('publish')" :id="id" v-model="publish" :effect="effect" :settled="settled" @check="hanging = 'check'" />
  <FilmSheet v-if="seen.has('film')" :id="id" v-model="film" :effect="effect" :screen="screen" :sitting="sitting" :settled="settled" />
  <CheckSheet v-if="seen.has('check')" :id="id" v-model="check" :settled="settled" @show="((hanging = null), emit('show', $event))" @weigh="hanging = 'weight'" @list="hanging = 'publish'" @tidy="emit('tidy')" />
  <GradeSheet v-if="seen.has('grade')" :id="id" v-model="grade" :layers="layers" :settled="settled" />
</template>
