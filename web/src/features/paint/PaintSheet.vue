<!-- Painting on the flat face: shapes beside the live one, each with its colour or the layer's picture, and everybody who wears it. -->
<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Control, Layer, Plain } from '../../api/types'
import type { Shape } from '../../engine/painting'
import ChoiceControl from '../controls/ChoiceControl.vue'
import ColourControl from '../controls/ColourControl.vue'
import RulerControl from '../controls/RulerControl.vue'
import EverybodysFace from '../desk/EverybodysFace.vue'
import FlatFace from './FlatFace.vue'
import { fresh, MOST_SHAPES, PICTURE, shapesOf, type Point } from './shapes'
import { t } from '../../words'

/** `control`: the painting's. */
const props = defineProps<{ layer: Layer; control: Control }>()
/** `turn` while something moves, `commit` at its end; `put` where something is chosen, which may be another form of the program. */
const emit = defineEmits<{ turn: [control: string, value: Plain]; commit: [gesture: string]; put: [gesture: string, control: string, value: Plain] }>()

const FURTHEST_SOFT = 200
const chosen = ref(0)
const drawing = ref(false)
const shapes = computed(() => shapesOf(props.layer.values[props.control.name]))
const shape = computed(() => shapes.value[chosen.value])
watch(() => shapes.value.length, (count) => (chosen.value = Math.min(chosen.value, Math.max(0, count - 1)))) // prettier-ignore

const plain = (shapes: Shape[]): Plain => (shapes.length ? ({ shapes } as unknown as Plain) : null)
function turn(changed: Shape[]): void {
  emit('turn', props.control.name, plain(changed))
}
function commit(what: string): void {
  emit('commit', `${props.layer.name}: ${what}`)
}
const changed = (values: Partial<Shape>): Shape[] => shapes.value.map((one, n) => (n === chosen.value ? { ...one, ...values } : one))
const set = (values: Partial<Shape>): void => turn(changed(values))
function put(what: string, made: Shape[]): void {
  emit('put', `${props.layer.name}: ${what}`, props.control.name, plain(made))
}
const choose = (what: string, values: Partial<Shape>): void => put(what, changed(values))

function drawn(points: Point[] | null): void {
  drawing.value = false
  if (!points) return
  const made = [...shapes.value, fresh(points, shapes.value)]
  put(t('paint.addAShape'), made)
  chosen.value = made.length - 1
}
function rearranged(what: string, made: Shape[], at: number): void {
  put(what, made)
  chosen.value = Math.max(0, at)
}
function lay(by: 1 | -1): void {
  const made = [...shapes.value]
  const [one] = made.splice(chosen.value, 1)
  if (one) made.splice(chosen.value + by, 0, one)
  rearranged(t(by > 0 ? 'paint.higher' : 'paint.lower'), made, chosen.value + by)
}
function double(): void {
  if (!shape.value) return
  const points = shape.value.points.map(([u, v]): Point => [u, Math.min(1.4, v + 0.03)])
  rearranged(t('paint.duplicate'), [...shapes.value, { ...shape.value, points }], shapes.value.length)
}
const remove = () => rearranged(t('paint.takeItAway'), shapes.value.filter((_, n) => n !== chosen.value), chosen.value - 1) // prettier-ignore
const yes = (on: boolean) => (on ? 'on' : 'off')
</script>

<template>
  <div class="paint page">
    <FlatFace :shapes="shapes" :chosen="chosen" :drawing="drawing" @turn="turn" @commit="commit(t('paint.shape', { n: chosen + 1 }))" @choose="chosen = $event" @drawn="drawn" />
    <div class="settings">
      <div class="row">
        <h3 v-if="shapes.length" class="title">{{ t('paint.shapeOf', { n: chosen + 1, count: shapes.length }) }}</h3>
        <h3 v-else class="title">{{ t('paint.nothingPainted') }}</h3>
        <button v-if="!drawing" class="act" :disabled="shapes.length >= MOST_SHAPES" @click="drawing = true">{{ t('paint.addAShape') }}</button>
        <button v-else class="act" @click="drawing = false">{{ t('paint.cancel') }}</button>
      </div>
      <p v-if="drawing" class="second" role="status">{{ t('paint.clickPoints') }}</p>
      <p v-else-if="!shape" class="second">{{ t('paint.howItStarts') }}</p>
      <div v-if="shapes.length > 1" class="swatches" role="radiogroup" :aria-label="t('paint.shapes')">
        <button
          v-for="(one, n) in shapes" :key="n" role="radio" class="swatch" :class="{ shows: one.fill === PICTURE }" :aria-checked="n === chosen" :aria-label="t('paint.shape', { n: n + 1 })"
          :style="one.fill === PICTURE ? {} : { background: one.fill }" @click="chosen = n" />
      </div>
      <template v-if="shape && !drawing">
        <ChoiceControl
          :name="t('paint.filledWith')" :value="shape.fill === PICTURE ? PICTURE : 'colour'" :choices="['colour', PICTURE]" :words="{ colour: t('paint.aColour'), picture: t('paint.thePicture') }"
          @choose="choose(t('paint.filledWith'), { fill: $event === PICTURE ? PICTURE : '#24525c' })" />
        <ColourControl v-if="shape.fill !== PICTURE" :name="t('paint.colour')" :value="shape.fill" @turn="set({ fill: $event })" @commit="commit(t('paint.colour'))" />
        <RulerControl :name="t('paint.opacity')" :value="shape.opacity" :neutral="1" @turn="set({ opacity: $event })" @commit="commit(t('paint.opacity'))" />
        <RulerControl :name="t('paint.softEdge')" :value="shape.soft" :neutral="3" :low="0" :high="FURTHEST_SOFT" :scale="1" unit="px" @turn="set({ soft: $event })" @commit="commit(t('paint.softEdge'))" />
        <RulerControl :name="t('paint.grown')" :value="shape.grown" :neutral="3" :low="0" :high="60" :scale="1" unit="px" @turn="set({ grown: $event })" @commit="commit(t('paint.grown'))" />
        <ChoiceControl :name="t('paint.mirrored')" :value="yes(shape.mirrored)" :choices="['off', 'on']" @choose="choose(t('paint.mirrored'), { mirrored: $event === 'on' })" />
        <ChoiceControl
          :name="t('paint.line')" :value="shape.smooth ? 'smooth' : 'straight'" :choices="['smooth', 'straight']" @choose="choose(t('paint.line'), { smooth: $event === 'smooth' })" />
        <p class="acts">
          <button class="word" :disabled="chosen >= shapes.length - 1" @click="lay(1)">{{ t('paint.higher') }}</button>
          <button class="word" :disabled="chosen === 0" @click="lay(-1)">{{ t('paint.lower') }}</button>
          <button class="word" :disabled="shapes.length >= MOST_SHAPES" @click="double">{{ t('paint.duplicate') }}</button>
          <button class="word" @click="remove">{{ t('paint.takeItAway') }}</button>
        </p>
        <p class="second small">{{ t('paint.pixelsAre') }}</p>
      </template>
      <EverybodysFace v-if="shapes.length" class="all" :layer="layer" />
    </div>
  </div>
</template>

<style scoped>
.paint {
  display: grid;
  grid-template-columns: minmax(300px, 470px) minmax(0, 340px);
  gap: 20px 26px;
  align-items: start;
  padding: 6px 18px 24px;
}
@container (max-width: 640px) {
  .paint {
    grid-template-columns: minmax(0, 1fr);
  }
}
.row {
  display: flex;
  align-items: center;
  gap: 14px;
  margin-bottom: 10px;
}
.title {
  flex: 1;
  font-size: 13px;
  color: var(--ink);
}
.swatches {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 10px;
}
.swatch {
  width: 30px;
  height: 20px;
  outline: 1px solid var(--line);
}
.swatch.shows {
  background: repeating-linear-gradient(45deg, #faf8f3 0 4px, #b9b1a0 4px 8px);
}
.swatch[aria-checked='true'] {
  outline: 2px solid var(--glaze);
  outline-offset: 1px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  margin-top: 10px;
}
.second {
  color: var(--second);
}
.small {
  font-size: 12px;
  margin-top: 10px;
}
.all {
  margin-top: 20px;
}
</style>
