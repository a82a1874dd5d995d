<!-- A drawn line as one of the controls: how many points it has, straight or smooth; it is drawn on the picture itself. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Plain } from '../../api/types'
import ChoiceControl from './ChoiceControl.vue'
import { t } from '../../words'

const props = defineProps<{ name: string; value: Plain }>()
const emit = defineEmits<{ choose: [value: Plain] }>()

const path = computed(() => (props.value ?? { points: [], smooth: true }) as { points: number[][]; smooth?: boolean })
const START = { points: [[0, -0.3], [0.3, 0], [0, 0.3], [-0.3, 0]], smooth: true } // prettier-ignore
</script>

<template>
  <div class="path">
    <ChoiceControl
      v-if="value" :name="name" :value="path.smooth === false ? 'straight' : 'smooth'" :choices="['smooth', 'straight']"
      @choose="emit('choose', { ...path, smooth: $event === 'smooth' })" />
    <button v-else class="act" @click="emit('choose', START)">{{ t('controls.drawALine') }}</button>
    <p v-if="value" class="hint">
      <span class="figure">{{ path.points.length }}</span> {{ t('controls.pointsOnThePictureDragOne') }}
    </p>
  </div>
</template>

<style scoped>
.hint {
  margin: 0 0 6px 118px;
  font-size: 12px;
  color: var(--second);
}
</style>
