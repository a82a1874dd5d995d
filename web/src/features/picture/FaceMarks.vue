<!-- The points of faces over the picture: rings of eyes, brows, lips and outline, and every point; hidden ones hollow. -->
<script setup lang="ts">
import type { SeenFace } from '../../camera/standin'
import { FACE_RINGS } from '../../camera/regions'

const props = defineProps<{ faces: SeenFace[]; width: number; height: number }>()

function ring(face: SeenFace, points: number[]): string {
  return points.map((n) => `${(face.points[n]?.[0] ?? 0) * props.width},${(face.points[n]?.[1] ?? 0) * props.height}`).join(' ')
}
/** All points as one path of dots, which is far quicker than as many elements. */
function dots(face: SeenFace, visible: boolean): string {
  const shown = face.points.filter((_, n) => (face.visible[n] ?? true) === visible)
  return shown.map(([x, y]) => `M${(x * props.width).toFixed(1)} ${(y * props.height).toFixed(1)}h0`).join('')
}
</script>

<template>
  <svg class="marks" :viewBox="`0 0 ${width} ${height}`" role="img" :aria-label="faces.length === 1 ? 'Points of one face' : `Points of ${faces.length} faces`">
    <g v-for="(face, n) in faces" :key="n">
      <polygon v-for="(points, k) in FACE_RINGS" :key="k" :points="ring(face, points)" />
      <path class="hidden" :d="dots(face, false)" />
      <path class="seen" :d="dots(face, true)" />
    </g>
  </svg>
</template>

<style scoped>
.marks {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
polygon {
  fill: none;
  stroke: #fff;
  stroke-width: 1.2;
  stroke-opacity: 0.75;
}
path {
  fill: none;
  stroke-linecap: round;
}
.seen {
  stroke: #fff;
  stroke-width: 3.2;
  filter: drop-shadow(0 0 1px #000);
}
.hidden {
  stroke: #000;
  stroke-width: 2.4;
  stroke-opacity: 0.5;
}
</style>
