<!-- What a layer does to ten skin tones and along grey, beside the controls that change it. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { ColourReading } from '../../api/types'
import { t } from '../../words'

const props = defineProps<{ reading: ColourReading }>()

const shifts = computed(() => props.reading.tones.map((tone) => tone.difference))
const farthest = computed(() => Math.max(...shifts.value))
/** Alike are shifts of which the largest is below one and a half times the smallest; below a difference of 1 none is seen. */
const alike = computed(() => farthest.value < 1.5 * Math.min(...shifts.value))
const far = computed(() => shifts.value.map((shift) => !alike.value && farthest.value >= 1 && shift > 0.85 * farthest.value))
const SIXTH = 10 / 3
const verdict = computed(() => {
  if (farthest.value < 1) return t('desk.skinStaysAsItIs')
  if (alike.value) return t('desk.allTonesShiftAboutAlikeBy', { min: Math.min(...shifts.value).toFixed(1), value: farthest.value.toFixed(1) })
  const parts = new Set(far.value.flatMap((is, n) => (is ? [n < SIXTH ? 'lightest' : n >= 2 * SIXTH ? 'darkest' : 'middle'] : [])))
  return t('desk.theTonesShiftMostByUp', { value: [...parts].join(` ${t('desk.andThe')} `), value2: farthest.value.toFixed(1), min: Math.min(...shifts.value).toFixed(1) })
})
const css = (c: [number, number, number]) => `rgb(${c.map((part) => Math.round(Math.min(1, Math.max(0, part)) * 255)).join(' ')})`
const ramp = computed(() => `linear-gradient(90deg, ${props.reading.grey.map((c) => css(c as [number, number, number])).join(', ')})`)
const curve = (channel: 0 | 1 | 2) =>
  props.reading.grey.map((c, n, all) => `${(n / (all.length - 1)) * 380},${(1 - (c[channel] ?? 0)) * 96}`).join(' ')
</script>

<template>
  <section class="aids">
    <h3>{{ t('desk.tenSkinTonesBeforeAboveAnd') }}</h3>
    <div class="tones" role="img" :aria-label="t('desk.skinTonesBeforeAndAfter', { verdict })">
      <span v-for="(tone, n) in reading.tones" :key="tone.before" class="tone">
        <i :style="{ background: tone.before }" />
        <i :style="{ background: tone.after }" />
        <span class="figure" :class="{ far: far[n] }">{{ tone.difference.toFixed(1) }}</span>
      </span>
    </div>
    <p class="verdict">{{ t('desk.colourDifferenceCiede2000', { verdict }) }}</p>
    <h3>{{ t('desk.greyRampAndCurve') }}</h3>
    <div class="ramp" style="background: linear-gradient(90deg, #000, #fff)" />
    <div class="ramp" :style="{ background: ramp }" />
    <svg class="curve" viewBox="0 0 380 96" preserveAspectRatio="none" role="img" :aria-label="t('desk.whatEachGreyBecomes')">
      <polyline points="0,96 380,0" stroke="#cdc7b6" />
      <polyline :points="curve(0)" stroke="#a4342a" />
      <polyline :points="curve(1)" stroke="#3f6b2a" />
      <polyline :points="curve(2)" stroke="#2f5b8c" />
    </svg>
  </section>
</template>

<style scoped>
.aids {
  min-width: 0;
}
.tones {
  display: grid;
  grid-template-columns: repeat(10, 1fr);
  gap: 4px;
  margin-top: 6px;
}
.tone i {
  display: block;
  height: 22px;
}
.tone .figure {
  display: block;
  margin-top: 3px;
  text-align: center;
  font-size: 12px;
  color: var(--second);
}
.tone .far {
  color: var(--glaze);
  font-weight: 700;
}
.verdict {
  margin: 4px 0 22px;
  color: var(--second);
}
.ramp {
  height: 14px;
}
.aids h3 + .ramp {
  margin-top: 6px;
}
.curve {
  display: block;
  width: 100%;
  height: 96px;
  margin-top: 6px;
  border: 1px solid #e5e0d3;
}
.curve polyline {
  fill: none;
  stroke-width: 1.4;
  vector-effect: non-scaling-stroke;
}
</style>
