<!-- One control of a layer, a mask or a node, whatever its type. Curves and hue by hue are drawn larger, elsewhere on the desk. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Asset, Control, Plain } from '../../api/types'
import { partOf, scaleOf } from '../../document/layers'
import { useMotions } from '../motions/useMotions'
import AssetControl from './AssetControl.vue'
import ChoiceControl from './ChoiceControl.vue'
import ColourControl from './ColourControl.vue'
import RulerControl from './RulerControl.vue'
import MeshControl from './MeshControl.vue'
import PathControl from './PathControl.vue'
import TextControl from './TextControl.vue'
import VectorControl from './VectorControl.vue'
import { shapesOf } from '../paint/shapes'
import { t } from '../../words'

/** `driven`: parts of a vector that something drives. */
const props = defineProps<{ control: Control; value: Plain; stages: [string, string][]; driven?: number[] }>()
/** `turn` while moving, `commit` at the end of the gesture; `choose` is both at once. */
const emit = defineEmits<{ turn: [value: Plain]; commit: []; choose: [value: Plain, asset?: Asset] }>()

const motions = useMotions()
const named = computed<[string, string][]>(() => {
  if (props.control.type === 'dial') return motions?.dials.value.map((one) => [one.id, one.title]) ?? []
  const { own = [], kinds = [] } = motions?.cues.value ?? {}
  return [...own, ...kinds]
})
const measured = computed(() => scaleOf(props.control))
const isVector = computed(() => props.control.type.startsWith('vec') || Array.isArray(props.value))
const numbers = (plain: Plain): number[] => (Array.isArray(plain) ? plain.map(Number) : [])
const fitting = computed(() => {
  const now = Number(props.value ?? 0)
  return { low: props.control.low ?? Math.min(-1, now), high: props.control.high ?? Math.max(1, now) }
})
</script>

<template>
  <ColourControl
    v-if="control.type === 'colour'" :name="control.title" :value="String(value ?? '#000000')" @turn="emit('turn', $event)"
    @commit="emit('commit')" />
  <ChoiceControl
    v-else-if="control.type === 'choice'" :name="control.title" :value="String(value)" :choices="control.choices"
    @choose="emit('choose', $event)" />
  <ChoiceControl
    v-else-if="control.type === 'boolean'" :name="control.title" :value="value ? 'on' : 'off'" :choices="['off', 'on']"
    @choose="emit('choose', $event === 'on')" />
  <ChoiceControl
    v-else-if="control.type === 'stage'" :name="control.title" :value="String(value ?? 'camera')" :choices="stages.map(([id]) => id)"
    :words="Object.fromEntries(stages)" @choose="emit('choose', $event)" />
  <ChoiceControl
    v-else-if="control.type === 'cue' || control.type === 'dial'" :name="control.title" :value="String(value ?? '')" :choices="named.map(([id]) => id)"
    :words="Object.fromEntries(named)" @choose="emit('choose', $event)" />
  <AssetControl v-else-if="control.type === 'asset'" :name="control.title" :control="control.name" :template="control.template ?? null" :value="value"
    @turn="emit('turn', $event)" @commit="emit('commit')" @choose="(plain, asset) => emit('choose', plain, asset)" />
  <MeshControl
    v-else-if="control.type === 'mesh'" :name="control.title" :value="value" @turn="emit('turn', $event)" @commit="emit('commit')"
    @choose="(plain, asset) => emit('choose', plain, asset)" />
  <TextControl v-else-if="control.type === 'text'" :name="control.title" :value="value" @turn="emit('turn', $event)" @commit="emit('commit')" />
  <p v-else-if="control.type === 'painting'" class="second">{{ control.title }}: {{ t('controls.shapesPainted', { count: shapesOf(value).length }) }}</p>
  <PathControl v-else-if="control.type === 'path'" :name="control.title" :value="value" @choose="emit('choose', $event)" />
  <VectorControl
    v-else-if="isVector" :name="control.title" :value="numbers(value)" :neutral="numbers(control.default)" :unit="measured.unit"
    :low="control.low ?? undefined" :high="control.high ?? undefined" :scale="measured.scale" :parts="numbers(value).map((_, n) => partOf(control, n))" :driven="driven" @turn="emit('turn', $event)" @commit="emit('commit')" />
  <RulerControl
    v-else :name="control.title" :value="Number(value ?? 0)" :neutral="Number(control.default ?? 0)" :low="fitting.low" :high="fitting.high"
    :unit="measured.unit" :scale="measured.scale" :whole="control.type === 'whole'" @turn="emit('turn', $event)" @commit="emit('commit')" />
</template>
