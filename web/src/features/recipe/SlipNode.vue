<!-- A node as a slip of paper: its name, what it takes at the left, what it gives at the right, and what that is now. -->
<script lang="ts">
import type { NodeView } from '../desk/usePreviews'

export interface SlipPort {
  name: string
  title: string
  type: string
  /** What stands there where no wire leads: a value, or the name of a control. */
  words: string
  control: boolean
  wired: boolean
}
export interface SlipData {
  title: string
  inputs: SlipPort[]
  outputs: { name: string; title: string; type: string }[]
  group: boolean
  comment: string
  kind: string
  result: boolean
}
export interface Shown {
  view: NodeView | undefined
  sheet: ImageBitmap | null
  width: number
  height: number
  faults: string[]
}
</script>

<script setup lang="ts">
import { Handle, Position } from '@vue-flow/core'
import { computed } from 'vue'
import TileCanvas from '../path/TileCanvas.vue'
import { t } from '../../words'

const props = defineProps<{ data: SlipData; shown: Shown; selected: boolean }>()
const emit = defineEmits<{ open: [] }>()

/** A colour that is alike everywhere, as hex. */
const swatch = computed(() => {
  const { view } = props.shown
  if (view?.type !== 'colour' || !view.words) return undefined
  const parts = view.words.split(', ').map((part) => Math.round(Math.min(1, Math.max(0, Number(part))) * 255))
  return `#${parts.map((part) => part.toString(16).padStart(2, '0')).join('')}`
})

</script>

<template>
  <article
    class="slip" :class="{ picked: selected, wrong: shown.faults.length, group: data.group, result: data.result }" :aria-label="data.title"
    @dblclick.stop="data.group && emit('open')">
    <header>{{ data.title }}</header>
    <div class="rows">
      <div class="ins">
        <div v-for="port in data.inputs" :key="port.name" class="port" :class="{ free: !port.wired }">
          <Handle :id="port.name" type="target" :position="Position.Left" :class="['dot', port.type]" :title="`${port.title}: ${port.type}`" />
          <span class="name">{{ port.title }}</span>
          <span v-if="port.words" class="figure value" :class="{ given: port.control }">{{ port.words }}</span>
        </div>
      </div>
      <div class="outs">
        <div v-for="port in data.outputs" :key="port.name" class="port out">
          <span class="name">{{ data.outputs.length > 1 || data.group ? port.title : '' }}</span>
          <Handle :id="port.name" type="source" :position="Position.Right" :class="['dot', port.type]" :title="`${port.title}: ${port.type}`" />
        </div>
      </div>
    </div>
    <TileCanvas
      v-show="shown.view && shown.view.tile !== null" class="look" :sheet="shown.sheet" :tile="shown.view?.tile" :width="shown.width"
      :height="shown.height" />
    <p v-if="shown.view?.words" class="figure now">
      <i v-if="swatch" :style="{ background: swatch }" />{{ swatch ?? shown.view.words }}
    </p>
    <p v-for="fault in shown.faults" :key="fault" class="fault" role="alert">{{ fault }}</p>
    <p v-if="data.comment" class="comment">{{ data.comment }}</p>
    <button v-if="data.group" class="word open nodrag" @click.stop="emit('open')">{{ t('recipe.open') }}</button>
  </article>
</template>

<style scoped>
.slip {
  position: relative;
  min-width: 112px;
  max-width: 260px;
  padding: 6px 0 8px;
  background: #fffdf8;
  border: 1px solid #b9b2a2;
  border-bottom-width: 2px;
  font-size: 12px;
  line-height: 1.35;
  cursor: grab;
}
.slip.group {
  box-shadow: 3px 3px 0 -1px #fffdf8, 3px 3px 0 0 #b9b2a2;
}
.slip.picked {
  outline: 2px solid var(--glaze);
  outline-offset: -1px;
}
.slip.wrong {
  border-color: var(--bad);
}
.slip.result {
  background: var(--chalk);
  border-color: var(--ink);
}
header {
  font-weight: 650;
  font-size: 13px;
  padding: 0 12px 3px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.rows {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
.ins {
  flex: 1;
  min-width: 0;
}
.port {
  position: relative;
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 1px 12px;
  min-height: 18px;
}
.port .name {
  color: var(--second);
  white-space: nowrap;
}
.value {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 110px;
}
.given {
  font-family: var(--words);
  font-style: italic;
  color: var(--second);
}
.out {
  justify-content: flex-end;
}
.look {
  display: block;
  max-width: 80px;
  max-height: 80px;
  margin: 5px 12px 0;
}
.now {
  padding: 4px 12px 0;
  font-weight: 650;
}
.now i {
  display: inline-block;
  width: 26px;
  height: 12px;
  margin-right: 8px;
  border: 1px solid rgb(0 0 0 / 25%);
  vertical-align: -1px;
}
.fault {
  margin: 6px 6px 0;
  padding: 4px 8px;
  background: var(--bad);
  color: #fff;
}
.comment {
  margin: 6px 12px 0;
  color: var(--second);
  border-left: 2px solid var(--line);
  padding-left: 6px;
}
.open {
  margin: 4px 12px 0;
}
</style>

<style>
.slip .dot {
  width: 9px;
  height: 9px;
  min-width: 0;
  min-height: 0;
  border: 1.5px solid var(--ink);
  border-radius: 50%;
  background: #fffdf8;
}
.slip .dot.picture,
.slip .dot.mask {
  border-radius: 0;
}
.slip .dot.colour,
.slip .dot.vec2,
.slip .dot.vec3,
.slip .dot.vec4 {
  box-shadow: inset 0 0 0 1.5px #fffdf8, inset 0 0 0 5px var(--ink);
}
.slip .dot.connecting,
.slip .dot:hover {
  background: var(--glaze);
  border-color: var(--glaze);
}
.slip .dot::after {
  content: '';
  position: absolute;
  inset: -7px;
}
</style>
