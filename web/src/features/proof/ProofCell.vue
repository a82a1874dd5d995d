<!-- One cell: the print, split where it is compared, and its figures. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { ProofCell } from './useProof'
import type { ProofPlace } from '../../api/types'
import { FIGURES } from './naming'

const props = defineProps<{
  id: string
  place: ProofPlace
  title: string
  cell: ProofCell | undefined
  other: ProofCell | undefined
  compared: boolean
  marks: string[]
  lit: boolean
  heads: boolean
}>()
const shape = computed(() => {
  const [wide = 9, high = 16] = props.place.screen.split(':').map(Number)
  return props.heads ? `${wide} / ${high * 0.62}` : `${wide} / ${high}`
})
const figures = (of: ProofCell | undefined): string[] => {
  if (!of) return []
  const { shift, clipped, contrast } = of.figures
  return [shift == null ? '–' : shift.toFixed(1), `${(100 * clipped).toFixed(1)} %`, contrast.toFixed(0)]
}
const names = ['shift', 'clipped', 'contrast']
const marked = computed(() => props.marks.map((one) => FIGURES[one]?.[0] ?? one).join(', '))
</script>

<template>
  <figure :data-cell="id" :class="{ marked: marks.length, lit, stale: cell?.stale }">
    <slot>
      <span class="print" :style="{ aspectRatio: shape }" :class="{ heads }">
        <img v-if="cell" :src="cell.print" :alt="title" />
        <img v-if="compared && other" class="second" :src="other.print" alt="" />
        <i v-if="compared && other" class="split" />
        <span v-if="!cell" class="empty" aria-hidden="true" />
      </span>
    </slot>
    <figcaption v-if="cell" class="figure" :title="marked">
      <span v-for="(words, n) in figures(cell)" :key="n" :class="{ out: marks.includes(names[n] ?? '') }">{{ words }}</span>
      <span v-if="marks.some((one) => !names.includes(one))" class="out words">{{ marks.filter((one) => !names.includes(one)).map((one) => FIGURES[one]?.[1] ?? one).join(' ') }}</span>
    </figcaption>
    <figcaption v-if="compared && other" class="figure beside"><span v-for="(words, n) in figures(other)" :key="n">{{ words }}</span></figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  min-width: 0;
}
.print {
  position: relative;
  display: block;
  width: 100%;
  overflow: hidden;
}
img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.heads img {
  object-position: 50% 22%;
}
.second {
  clip-path: inset(0 0 0 50%);
}
.split {
  position: absolute;
  inset: 0 auto 0 50%;
  width: 1px;
  background: #fff;
}
.empty {
  position: absolute;
  inset: 0;
  background: #757575;
}
.marked .print {
  outline: 3px solid #ff9a5c;
}
.lit .print {
  outline: 3px solid #fff;
}
.stale .print {
  opacity: 0.55;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 0 6px;
  margin-top: 6px;
  font-size: 11px;
  letter-spacing: -0.02em;
  color: #fff;
  white-space: nowrap;
}
.beside {
  margin-top: 0;
  color: #e4e4e4;
}
.out {
  color: #ffc49d;
}
.words {
  font-family: var(--words);
}
</style>
