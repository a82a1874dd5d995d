<!-- The icon: a square of a frame, moved by dragging it, or a picture of the shelf; seen as catalogues show it, square, round, small. -->
<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { onMounted, ref, watch } from 'vue'
import { api } from '../../api/client'
import SeenChoice from './SeenChoice.vue'
import { useMessages } from '../messages/useMessages'
import type { Cast, Listing } from '../../api/types'
import { t } from '../../words'

type At = Listing['icon']
const props = defineProps<{ id: string; at: At; cast: Cast | null; own: boolean; pictures: { hash: string; name: string }[] }>()
const emit = defineEmits<{ change: [at: At] }>()
const { complain } = useMessages()

const SOON_MS = 250
const LONGEST = 120
const icon = ref('')
const drawing = ref(false)
let asked = 0
async function draw(): Promise<void> {
  const mine = ++asked
  drawing.value = true
  try {
    const made = await api.icon(props.id, props.at)
    if (mine === asked) icon.value = made.icon
  } catch (error) {
    if (mine === asked) complain(error)
  } finally {
    if (mine === asked) drawing.value = false
  }
}
const soon = useDebounceFn(draw, SOON_MS)
onMounted(draw)
watch(() => props.at, soon)

let from: { x: number; y: number; u: number; v: number } | null = null
const part = (value: number): number => Math.min(1, Math.max(0, value))
function drag(event: PointerEvent): void {
  const box = event.currentTarget as HTMLElement
  if (event.type === 'pointerdown') {
    box.setPointerCapture(event.pointerId)
    from = { x: event.clientX, y: event.clientY, u: props.at.u, v: props.at.v }
  } else if (event.type !== 'pointermove') from = null
  else if (from) {
    const moved = props.at.side / box.clientWidth
    // A frame is upright: its height is sixteen ninths of its width.
    emit('change', { ...props.at, u: part(from.u - (event.clientX - from.x) * moved), v: part(from.v - ((event.clientY - from.y) * moved * 9) / 16) })
  }
}
const STEP = 0.02
function key(event: KeyboardEvent): void {
  const [across, down] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key] ?? [0, 0]
  if (!across && !down) return
  event.preventDefault()
  emit('change', { ...props.at, u: part(props.at.u + (across ?? 0) * STEP), v: part(props.at.v + (down ?? 0) * STEP) })
}
const number = (event: Event, low: number, high: number, before: number): number => {
  const value = Number((event.target as HTMLInputElement).value.replace(',', '.'))
  return Number.isFinite(value) ? Math.min(high, Math.max(low, value)) : before
}
</script>

<template>
  <div class="icon">
    <div class="looks" :class="{ drawing }">
      <img class="square" :src="icon" :alt="t('showcase.theIcon')" draggable="false" tabindex="0" :title="t('showcase.dragToMoveIt')" @pointerdown="drag" @pointermove="drag" @pointerup="drag" @pointercancel="drag" @keydown="key" />
      <img class="round" :src="icon" alt="" />
      <img class="small" :src="icon" alt="" />
    </div>
    <div class="how">
      <SeenChoice v-if="!at.picture" :seen="at.seen" :cast="cast" :own="own" @change="emit('change', { ...at, seen: $event })" />
      <p v-if="!at.picture">
        <label>{{ t('showcase.at') }} <input class="field figure" size="4" :value="at.seconds.toFixed(1)" @change="emit('change', { ...at, seconds: number($event, 0, LONGEST, at.seconds) })" /> s</label>
        <label>{{ t('showcase.wide') }} <input type="range" min="0.1" max="1" step="0.01" :value="at.side" @input="emit('change', { ...at, side: number($event, 0.1, 1, at.side) })" /></label>
      </p>
      <select v-if="pictures.length" class="field" :aria-label="t('showcase.iconFrom')" :value="at.picture ?? ''" @change="emit('change', { ...at, picture: ($event.target as HTMLSelectElement).value || null })">
        <option value="">{{ t('showcase.aFrame') }}</option>
        <option v-for="one in pictures" :key="one.hash" :value="one.hash">{{ one.name }}</option>
      </select>
    </div>
  </div>
</template>

<style scoped>
.icon {
  display: flex;
  gap: 18px;
}
.looks {
  display: flex;
  align-items: flex-end;
  gap: 10px;
}
.drawing {
  opacity: 0.6;
}
img {
  object-fit: cover;
  background: var(--line);
}
.square {
  width: 96px;
  height: 96px;
  cursor: move;
  touch-action: none;
}
.round {
  width: 56px;
  height: 56px;
  border-radius: 50%;
}
.small {
  width: 28px;
  height: 28px;
}
.how {
  display: grid;
  gap: 6px;
  align-content: start;
}
.how p {
  display: flex;
  gap: 14px;
}
input[type='range'] {
  width: 90px;
  accent-color: var(--ink);
  vertical-align: middle;
}
</style>
