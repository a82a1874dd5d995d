<!-- What a layer works with, live, beside the controls that change it: the edges that it found, where it lies, its mask. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { LayerKind } from '../../api/types'
import { usePreviews } from './usePreviews'
import TileCanvas from '../path/TileCanvas.vue'

const props = defineProps<{ layer: string; looks: LayerKind['looks']; mask?: boolean }>()
const SHORT = 150
const previews = usePreviews(
  computed(() => ({ layer: props.layer, path: [], only: props.looks.map((one) => one.node), mask: props.mask ?? false, short: SHORT })),
)
const { nodes, sheet, size } = previews
</script>

<template>
  <div class="looks">
    <figure v-for="look in looks" :key="look.node">
      <figcaption>{{ look.title }}</figcaption>
      <TileCanvas
        v-show="nodes[look.node]?.tile != null" :sheet="sheet" :tile="nodes[look.node]?.tile" :width="size.width" :height="size.height" role="img"
        :aria-label="look.title" />
      <p v-if="nodes[look.node]?.words" class="figure">{{ nodes[look.node]?.words }}</p>
    </figure>
  </div>
</template>

<style scoped>
.looks {
  display: flex;
  flex-wrap: wrap;
  gap: 16px 20px;
}
figure {
  margin: 0;
}
figcaption {
  font-size: 12px;
  font-weight: 650;
  color: var(--second);
  margin-bottom: 6px;
}
canvas {
  display: block;
  max-width: 180px;
  max-height: 267px;
  outline: 1px solid var(--line);
}
</style>
