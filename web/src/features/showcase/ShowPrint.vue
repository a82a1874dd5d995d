<!-- A package's print: its clip or icon, and while it is pointed at the program itself, playing on this device before the stand-in. -->
<script setup lang="ts">
import { onBeforeUnmount, ref } from 'vue'
import { StandIn } from '../../camera/standin'
import { Host } from '../../engine/host'
import { load } from '../../engine/player'
import { t } from '../../words'

const props = defineProps<{ code: string; number: number; name: string; clip: boolean }>()

const SIZE = [270, 480] as const
const RATE = 30
/** Pointing in passing starts nothing. */
const SOON_MS = 160
const canvas = ref<HTMLCanvasElement | null>(null)
const playing = ref(false)
let wanted = 0
let timer = 0

function point(on: boolean): void {
  window.clearTimeout(timer)
  wanted++
  playing.value = false
  if (on) timer = window.setTimeout(() => void play(wanted), SOON_MS)
}

async function play(mine: number): Promise<void> {
  if (!canvas.value) return
  const host = new Host(canvas.value)
  try {
    const [{ program, material }, standIn] = await Promise.all([load(`/api/packages/${props.code}/files`, `?number=${props.number}`), StandIn.open()])
    if (mine !== wanted) return
    host.open(program, material)
    const began = performance.now()
    while (mine === wanted) {
      await new Promise(requestAnimationFrame)
      const now = Math.floor(((performance.now() - began) / 1000) * RATE)
      if (now === host.shown) continue
      const whole = await standIn.frame(now)
      // A program reads the camera pixel by pixel, so that has the size that is drawn.
      const picture = await createImageBitmap(whole, { resizeWidth: SIZE[0], resizeHeight: SIZE[1] })
      whole.close()
      const masks = await standIn.masks(now, host.masks, ...SIZE)
      if (host.readsFaces) host.faces = (await standIn.moment(now)).faces
      if (mine === wanted) {
        host.draw(now, ...SIZE, { picture, masks })
        playing.value = true
      }
      picture.close()
      for (const mask of masks.values()) mask.close()
    }
  } catch {
    // It stays the icon that it was; the phone's page says what is wrong.
    playing.value = false
  } finally {
    host.close()
  }
}
onBeforeUnmount(() => point(false))
</script>

<template>
  <span class="print" @pointerenter="point(true)" @pointerleave="point(false)" @focusin="point(true)" @focusout="point(false)">
    <img :class="{ whole: !clip }" :src="`/api/packages/${code}/files/${clip ? 'poster.jpg' : 'icon.png'}?number=${number}`" :alt="t('showcase.iconOf', { name })" />
    <canvas ref="canvas" :class="{ playing }" role="img" :aria-label="t('showcase.playsThrough', { name })" />
  </span>
</template>

<style scoped>
.print {
  position: relative;
  display: block;
  aspect-ratio: 9 / 16;
  margin-bottom: 10px;
  overflow: hidden;
}
img,
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: cover;
}
/* An icon is square, and a print is not. */
.whole {
  object-fit: contain;
}
canvas {
  visibility: hidden;
}
canvas.playing {
  visibility: visible;
}
</style>
