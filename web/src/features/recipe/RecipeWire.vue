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
  data: { type: string; wrong: boolean }
}>()

const path = computed(() => getBezierPath(props)[0])
const look = computed(() => {
  if (props.data.wrong) return 'wrong'
  if (props.data.type === 'picture') return 'film'
  if (props.data.type === 'mask') return 'hatch'
  return ['colour', 'vec2', 'vec3', 'vec4'].includes(props.data.type) ? 'double' : 'single'
})
</script>

<template>
  <path :d="path" class="reach" fill="none" stroke="transparent" stroke-width="16" />
  <g :class="['wire', look, { picked: selected }]" fill="none">
    <path :d="path" class="a" />
    <path v-if="look !== 'single' && look !== 'wrong'" :d="path" class="b" />
    <path v-if="look === 'film' || look === 'hatch'" :d="path" class="c" />
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
.hatch .a {
  stroke-width: 5.6;
}
.hatch .b {
  stroke: var(--paper);
  stroke-width: 3;
}
.hatch .c {
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
