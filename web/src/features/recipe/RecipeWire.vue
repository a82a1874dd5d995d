<!-- A wire, told by its pattern: a line for a number, two for several, a strip of film for a picture, hatched for a mask. -->
<script setup lang="ts">
import { getBezierPath, type Position } from '@vue-flow/core'
import { computed } from 'vue'

const props = defineProps<{
  sourceX: number
  sourceY: number
  targetX: number
  targetY: number
  sourcePosition: Position
  targetPosition: Position
  selected?: boolean
  data: { look: string; wrong: boolean }
}>()

const path = computed(() => getBezierPath(props)[0])
const look = computed(() => (props.data.wrong ? 'wrong' : props.data.look))
</script>

<template>
  <path :d="path" class="reach" fill="none" stroke="transparent" stroke-width="16" />
  <g :class="['wire', look, { picked: selected }]" fill="none">
    <path :d="path" class="a" />
    <path v-if="look !== 'single' && look !== 'wrong'" :d="path" class="b" />
    <path v-if="look === 'film' || look === 'hatched'" :d="path" class="c" />
  </g>
</template>

<style scoped>
.wire path {
  stroke: var(--ink);
  pointer-events: none;
}
.single .a {
  stroke-width: 1.4;
}
.double .a {
  stroke-width: 4.6;
}
.double .b {
  stroke: var(--paper);
  stroke-width: 2;
}
.film .a {
  stroke-width: 7.5;
}
.film .b {
  stroke: var(--paper);
  stroke-width: 4.8;
}
.film .c {
  stroke-width: 4.8;
  stroke-dasharray: 1.2 5;
}
.hatched .a {
  stroke-width: 5.6;
}
.hatched .b {
  stroke: var(--paper);
  stroke-width: 3;
}
.hatched .c {
  stroke-width: 3;
  stroke-dasharray: 3 3;
}
.wrong .a {
  stroke: var(--bad);
  stroke-width: 2;
  stroke-dasharray: 6 5;
}
.picked .a {
  stroke: var(--glaze);
}
.picked.single .a {
  stroke-width: 2.4;
}
</style>
