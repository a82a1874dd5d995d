<!-- Hue by hue, drawn: eight hues in a row, each a column that is dragged up and down, for turn, saturation or lightness. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Plain } from '../../api/types'

const HUES = [
  ['Reds', '#c8463c'], ['Oranges', '#d0803c'], ['Yellows', '#c9b23e'], ['Greens', '#5f9a48'],
  ['Aquas', '#3f9a98'], ['Blues', '#4668b8'], ['Purples', '#7c52b0'], ['Magentas', '#b84a94'],
] as const // prettier-ignore
const PARTS = [
  { title: 'Turn', most: 45, unit: '°', digits: 0 },
  { title: 'Saturation', most: 1, unit: '%', digits: 2 },
  { title: 'Lightness', most: 1, unit: '%', digits: 2 },
] as const
const HEIGHT = 132

const props = defineProps<{ name: string; value: Plain }>()
const emit = defineEmits<{ turn: [value: Plain]; commit: [] }>()

const part = ref(1)
const rows = computed<number[][]>(() => (Array.isArray(props.value) ? (props.value as number[][]) : HUES.map(() => [0, 0, 0])))
const kind = computed(() => PARTS[part.value] ?? PARTS[1])
let held: number | null = null

const at = (hue: number) => rows.value[hue]?.[part.value] ?? 0
const top = (hue: number) => (0.5 - at(hue) / kind.value.most / 2) * HEIGHT
const shown = (hue: number) => `${Math.round(at(hue) * (kind.value.unit === '%' ? 100 : 1))}`

function put(hue: number, number: number): void {
  const { most, digits } = kind.value
  const fine = Number(Math.min(most, Math.max(-most, number)).toFixed(digits))
  if (fine !== at(hue)) emit('turn', rows.value.map((row, n) => (n === hue ? row.map((old, m) => (m === part.value ? fine : old)) : row)))
}

function follow(event: PointerEvent): void {
  if (held === null) return
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  put(held, (0.5 - (event.clientY - box.top) / box.height) * 2 * kind.value.most)
}

function grab(event: PointerEvent, hue: number): void {
  if (event.button !== 0) return
  held = hue
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  follow(event)
}

function release(): void {
  if (held === null) return
  held = null
  emit('commit')
}

function key(event: KeyboardEvent, hue: number): void {
  const step = { ArrowUp: 1, ArrowDown: -1 }[event.key]
  if (!step) return
  event.preventDefault()
  put(hue, at(hue) + (step * kind.value.most * (event.shiftKey ? 10 : 1)) / (kind.value.unit === '%' ? 100 : 45))
}

function level(hue: number): void {
  put(hue, 0)
  emit('commit')
}

function levelAll(): void {
  emit('turn', HUES.map(() => [0, 0, 0]))
  emit('commit')
}
</script>

<template>
  <section class="hues" :data-control="name">
    <header>
      <h3>{{ name }}</h3>
      <span class="ways" role="radiogroup" aria-label="What of each hue">
        <button v-for="(one, n) in PARTS" :key="one.title" role="radio" :aria-checked="n === part" class="way" @click="part = n">{{ one.title }}</button>
      </span>
      <button class="word" @click="levelAll">Level all</button>
    </header>
    <div class="row">
      <div v-for="([title, ink], hue) in HUES" :key="title" class="hue">
        <span
          class="rail" role="slider" tabindex="0" :aria-label="`${kind.title} of ${title.toLowerCase()}`" aria-orientation="vertical"
          :aria-valuemin="-kind.most" :aria-valuemax="kind.most" :aria-valuenow="at(hue)" :aria-valuetext="`${shown(hue)} ${kind.unit}`"
          @pointerdown="grab($event, hue)" @pointermove="follow" @pointerup="release" @pointercancel="release" @dblclick="level(hue)"
          @keydown="key($event, hue)" @keyup="/^Arrow/.test($event.key) && emit('commit')">
          <i class="stem" :style="{ background: ink, top: `${Math.min(top(hue), HEIGHT / 2)}px`, height: `${Math.abs(top(hue) - HEIGHT / 2)}px` }" />
          <i class="hand" :style="{ background: ink, top: `${top(hue)}px` }" />
        </span>
        <span class="figure">{{ shown(hue) }}</span>
        <span class="title">{{ title }}</span>
      </div>
    </div>
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
  margin-bottom: 8px;
}
.ways {
  display: flex;
  gap: 12px;
  flex: 1;
}
.way {
  color: var(--second);
  border-bottom: 2px solid transparent;
}
.way[aria-checked='true'] {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--ink);
}
.row {
  display: grid;
  grid-template-columns: repeat(8, minmax(0, 1fr));
  container-type: inline-size;
}
.hue {
  display: flex;
  flex-direction: column;
  align-items: center;
  font-size: 12px;
}
.rail {
  position: relative;
  width: 100%;
  height: 132px;
  touch-action: none;
  cursor: ns-resize;
  background: linear-gradient(var(--line), var(--line)) 50% 50% / 100% 1px no-repeat;
}
.rail i {
  position: absolute;
  left: 50%;
}
.stem {
  width: 4px;
  margin-left: -2px;
}
.hand {
  width: 22px;
  height: 4px;
  margin: -2px 0 0 -11px;
}
.title {
  color: var(--second);
  /* Eight words side by side keep a gap between them on a narrow desk. */
  font-size: min(12px, 2.7cqi);
  letter-spacing: -0.02em;
}
</style>
