<!-- The desk of the open layer: its name, how it is laid over the picture, its controls, and what helps to judge them. -->
<script setup lang="ts">
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { api } from '../api/client'
import type { Asset, Control, Layer, Layout, LookupReading, Plain } from '../api/types'
import { useCatalogue } from '../composables/useCatalogue'
import { useMessages } from '../composables/useMessages'
import { BLEND_GROUPS, lookupOf, valueOf } from '../effect/layers'
import ChoiceControl from './ChoiceControl.vue'
import ColourControl from './ColourControl.vue'
import JudgingAids from './JudgingAids.vue'
import LookupCard from './LookupCard.vue'
import RulerControl from './RulerControl.vue'

const props = defineProps<{ layer: Layer; trouble: string | null; busy: string | null }>()
const emit = defineEmits<{
  turn: [control: string, value: Plain]
  commit: [gesture: string]
  set: [gesture: string, values: Partial<Layer>]
  setControl: [gesture: string, control: string, value: Plain]
  file: [file: File]
  remove: []
}>()

const { complain } = useMessages()
const asset = shallowRef<Asset | null>(null)
const reading = shallowRef<LookupReading | null>(null)
const naming = ref(false)
const nameField = ref<HTMLInputElement | null>(null)
const { kind, controls } = useCatalogue()
const lookup = computed(() => lookupOf(props.layer))
const strength = computed(() => Number(props.layer.values.strength ?? 1))
/** Controls that have a line of their own; a grade has none before it has a lookup. */
const shown = computed(() => {
  if (props.layer.kind === 'lookup-grade' && !lookup.value) return []
  const curves = asset.value?.lookup?.kind !== 'cube'
  return controls(props.layer).filter((one) => one.type !== 'lookup' && !(one.name === 'interpolation' && curves))
})
let asked = 0
let timer = 0

watch(
  () => lookup.value?.asset,
  async (hash) => {
    asset.value = null
    if (!hash) return
    try {
      asset.value = await api.asset(hash)
    } catch (error) {
      complain(error)
    }
  },
  { immediate: true },
)

/** The judging aids follow the strength, a little behind the hand. */
watch(
  () => (lookup.value ? ([lookup.value, strength.value] as const) : null),
  (now, before) => {
    window.clearTimeout(timer)
    if (!now) {
      reading.value = null
      return
    }
    const [table, much] = now
    const mine = ++asked
    timer = window.setTimeout(
      async () => {
        try {
          const fresh = await api.judging(table.asset, table.layout ?? null, much)
          if (mine === asked) reading.value = fresh
        } catch (error) {
          complain(error)
        }
      },
      before ? 120 : 0,
    )
  },
  { immediate: true },
)

async function rename(): Promise<void> {
  naming.value = true
  await nextTick()
  nameField.value?.select()
}

function named(event: Event): void {
  if (!naming.value) return
  naming.value = false
  const name = (event.target as HTMLInputElement).value.trim().slice(0, 80)
  if (name && name !== props.layer.name) emit('set', `Rename ${props.layer.name} to ${name}`, { name })
}

function blend(event: Event): void {
  const select = event.target as HTMLSelectElement
  emit('set', `Blend of ${props.layer.name}: ${select.selectedOptions[0]?.text ?? select.value}`, { blend: select.value })
}

function layout(which: Layout): void {
  if (lookup.value) emit('setControl', `Read the lookup of ${props.layer.name} as ${which}`, 'lookup', { ...lookup.value, layout: which })
}

/** Parts of a whole are shown in per cent, all else in its own unit. */
const isPart = (control: Control) => control.unit === 'screen' || (control.unit === '' && control.low === 0 && control.high === 1)
const UNITS: Record<string, string> = { times: '×', degrees: '°', seconds: 's', 'reference pixels': 'px', stops: 'st', 'a second': '/s' }

function ruler(control: Control) {
  const value = Number(valueOf(props.layer, control) ?? 0)
  return {
    value,
    neutral: Number(control.default ?? 0),
    low: control.low ?? -1,
    high: control.high ?? 1,
    unit: isPart(control) ? '%' : (UNITS[control.unit] ?? control.unit),
    scale: isPart(control) ? 100 : 1,
    whole: control.type === 'whole',
  }
}

defineExpose({ rename })
</script>

<template>
  <section class="desk" :aria-label="`Desk of ${layer.name}`">
    <header class="head">
      <input
        v-if="naming" ref="nameField" class="field title" :value="layer.name" maxlength="80" aria-label="Name of the layer"
        @keydown.enter="named" @keydown.esc="naming = false" @blur="named" />
      <h2 v-else @dblclick="rename">{{ layer.name }}</h2>
      <button class="word" title="N" @click="rename">Rename</button>
      <button class="word" title="Delete" @click="emit('remove')">Remove</button>
      <span class="gap" />
      <label class="blend">
        Blend
        <select class="field" :value="layer.blend" aria-label="Blend mode" @change="blend">
          <optgroup v-for="group in BLEND_GROUPS" :key="group.title" :label="group.title">
            <option v-for="[mode, words] in group.modes" :key="mode" :value="mode">{{ words }}</option>
          </optgroup>
        </select>
      </label>
    </header>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}. The last good picture keeps running.</p>
    <div class="columns">
      <div class="controls">
        <p v-if="!kind(layer.kind)" class="help">
          This layer comes from a newer version of Sun Glaze. It is kept as it is, and leaves the picture alone.
        </p>
        <LookupCard
          v-if="layer.kind === 'lookup-grade'" :lookup="lookup" :asset="asset" :reading="reading" :busy="busy"
          @file="emit('file', $event)" @layout="layout"
          @remove="emit('setControl', `Take the lookup out of ${layer.name}`, 'lookup', null)" />
        <div class="rulers">
          <template v-for="control in shown" :key="control.name">
            <ColourControl
              v-if="control.type === 'colour'" :name="control.title" :value="String(valueOf(layer, control))"
              @turn="emit('turn', control.name, $event)" @commit="emit('commit', `${control.title} of ${layer.name}`)" />
            <ChoiceControl
              v-else-if="control.type === 'choice'" :name="control.title" :value="String(valueOf(layer, control))"
              :choices="control.choices"
              @choose="emit('setControl', `${layer.name}: ${control.title} ${$event}`, control.name, $event)" />
            <ChoiceControl
              v-else-if="control.type === 'boolean'" :name="control.title" :value="valueOf(layer, control) ? 'on' : 'off'"
              :choices="['off', 'on']"
              @choose="emit('setControl', `${layer.name}: ${control.title} ${$event}`, control.name, $event === 'on')" />
            <RulerControl
              v-else :name="control.title" v-bind="ruler(control)" @turn="emit('turn', control.name, $event)"
              @commit="emit('commit', `${control.title} of ${layer.name}`)" />
          </template>
          <RulerControl
            name="Opacity" :value="layer.opacity" :neutral="1" @turn="emit('turn', 'opacity', $event)"
            @commit="emit('commit', `Opacity of ${layer.name}`)" />
        </div>
      </div>
      <JudgingAids v-if="reading" :reading="reading" />
    </div>
  </section>
</template>

<style scoped>
.desk {
  container-type: inline-size;
  padding: 16px 18px 24px;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 18px;
  margin-bottom: 20px;
}
.head h2 {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.title {
  font-size: 20px;
  font-weight: 650;
  line-height: 1.2;
}
.gap {
  flex: 1;
}
.blend {
  white-space: nowrap;
}
.blend select {
  margin-left: 6px;
  font-weight: 650;
}
.trouble {
  color: var(--bad);
  font-weight: 650;
  margin-bottom: 14px;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 396px) minmax(0, 394px);
  gap: 24px 34px;
}
@container (max-width: 720px) {
  .columns {
    grid-template-columns: minmax(0, 396px);
  }
}
.rulers {
  margin-top: 18px;
}
.help {
  color: var(--second);
  max-width: 52ch;
}
</style>
