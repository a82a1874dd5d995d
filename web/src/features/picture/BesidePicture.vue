<!-- Another state of the effect, or another performer, beside the present one, at the same frame. -->
<script setup lang="ts">
import { watch } from 'vue'
import type { Effect } from '../../api/types'
import type { Sitting } from '../../camera/standin'
import { useStream } from '../../stream/useStream'
import { t } from '../../words'

const props = defineProps<{ effect: Effect; name: string; playing: boolean; frame: number; screen: string; sitting: Sitting }>()
const stream = useStream()

watch(() => props.effect, (effect) => stream.show(effect), { immediate: true }) // prettier-ignore
watch(
  [() => props.playing, () => props.screen, () => props.sitting, () => (props.playing ? -1 : props.frame)],
  () => stream.setView({ playing: props.playing, frame: props.frame, screen: props.screen, sitting: props.sitting }),
  { immediate: true },
)

defineExpose({ move: stream.move })
</script>

<template>
  <div class="room">
    <canvas
      :ref="(element) => stream.attach(element as HTMLCanvasElement | null)" class="beside" width="540" height="960" role="img"
      :aria-label="t('picture.besideIt', { name })" />
  </div>
</template>

<style scoped>
.room {
  min-height: 0;
  min-width: 0;
}
.beside {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
</style>
