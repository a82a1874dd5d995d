<!-- The points of faces over the picture: rings of eyes, brows, lips and outline, and every point; hidden ones hollow. -->
<script setup lang="ts">
import { FACE_RINGS } from '../../camera/regions'
import type { Face } from '../../engine/moment'
import { t } from '../../words'

const props = defineProps<{ faces: readonly Face[]; width: number; height: number }>()

const across = (face: Face, n: number): number => (face.points[3 * n] ?? 0) * props.width
const down = (face: Face, n: number): number => (face.points[3 * n + 1] ?? 0) * props.height
function ring(face: Face, points: number[]): string {
  return points.map((n) => `${across(face, n)},${down(face, n)}`).join(' ')
}
/** All points as one path of dots, which is far quicker than as many elements. */
function dots(face: Face, hidden: boolean): string {
  const shown = Array.from({ length: face.points.length / 3 }, (_, n) => n).filter((n) => Boolean(face.hidden[n]) === hidden)
  return shown.map((n) => `M${across(face, n).toFixed(1)} ${down(face, n).toFixed(1)}h0`).join('')
}
</script>

<template>
  <svg class="marks" :viewBox="`0 0 ${width} ${height}`" role="img" :aria-label="faces.length === 1 ? t('picture.pointsOfOneFace') : t('picture.pointsOfFaces', { count: faces.length })">
    <g v-for="(face, n) in faces" :key="n">
      <polygon v-for="(points, k) in FACE_RINGS" :key="k" :points="ring(face, points)" />
      <path class="hidden" :d="dots(face, true)" />
      <path class="seen" :d="dots(face, false)" />
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
