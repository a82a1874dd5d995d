<!-- Holds a canvas that somebody else draws into. -->
<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'

const props = defineProps<{ canvas: HTMLCanvasElement | undefined; alt: string }>()
const frame = ref<HTMLElement | null>(null)

function place(): void {
  frame.value?.replaceChildren(...(props.canvas ? [props.canvas] : []))
}
onMounted(place)
watch(() => props.canvas, place)
</script>

<template>
  <span ref="frame" class="live" role="img" :aria-label="alt" />
</template>

<style>
.live {
  display: block;
  background: #8a8a8a;
  overflow: hidden;
}
.live canvas {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
</style>
