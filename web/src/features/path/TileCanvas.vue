<!-- One tile of a sheet of previews, drawn at its own size. -->
<script setup lang="ts">
import { ref, watch } from 'vue'

const props = defineProps<{ sheet: ImageBitmap | null; tile: number | null | undefined; width: number; height: number }>()
const canvas = ref<HTMLCanvasElement | null>(null)

watch(
  [() => props.sheet, () => props.tile, canvas],
  () => {
    const { sheet, tile, width, height } = props
    if (!canvas.value || !sheet || tile === null || tile === undefined) return
    if (canvas.value.width !== width || canvas.value.height !== height) Object.assign(canvas.value, { width, height })
    canvas.value.getContext('2d')?.drawImage(sheet, 0, tile * height, width, height, 0, 0, width, height)
  },
  { flush: 'post' },
)
</script>

<template>
  <canvas ref="canvas" width="90" height="160" />
</template>
