<!-- Where a layer shows: everywhere, or where a mask says; with the mask laid over the picture while one works on it. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Layer, LayerMask, Plain } from '../../api/types'
import { useCatalogue } from '../../document/useCatalogue'
import { DRIVE, MASK } from '../../document/address'
import { driven, maskDrives, valueOf } from '../../document/layers'
import DrivenLine from './DrivenLine.vue'
import LooksBeside from './LooksBeside.vue'
import { t } from '../../words'

const props = defineProps<{ layer: Layer; stages: [string, string][]; overlaid: boolean }>()
const emit = defineEmits<{
  turn: [control: string, value: Plain]
  commit: [gesture: string]
  set: [gesture: string, values: Partial<Layer>]
  overlay: [on: boolean]
  openDrive: [control: string, title: string]
}>()

const { catalogue } = useCatalogue()
const kinds = computed(() => catalogue.value?.masks ?? [])
const kind = computed(() => kinds.value.find((one) => one.kind === props.layer.mask?.kind))

function choose(wanted: string | null): void {
  const mask: LayerMask | null = wanted ? { kind: wanted, values: {} } : null
  const name = kinds.value.find((one) => one.kind === wanted)?.name.toLowerCase() ?? 'all'
  const gone = maskDrives(props.layer)
  const drives = Object.fromEntries(Object.entries(props.layer.drives).filter(([driven]) => !(driven in gone)))
  emit('set', `Mask of ${props.layer.name}: ${name}`, { mask, drives })
}

function put(control: string, value: Plain): void {
  emit('turn', MASK + control, value)
}
</script>

<template>
  <div class="mask">
    <div class="kinds" role="radiogroup" :aria-label="t('desk.kindOfMask')">
      <button role="radio" class="option" :aria-checked="!layer.mask" @click="choose(null)">{{ t('desk.allOfThePicture') }}</button>
      <button
        v-for="one in kinds" :key="one.kind" role="radio" class="option" :aria-checked="one.kind === layer.mask?.kind" :title="one.help"
        @click="choose(one.kind)">
        {{ one.name }}
      </button>
    </div>
    <p v-if="!layer.mask" class="second">{{ t('desk.theLayerShowsEverywhereAMask') }}</p>
    <p v-else-if="kind" class="second">{{ kind.help }}.</p>
    <div v-if="layer.mask && kind" class="columns">
      <div>
        <DrivenLine
          v-for="control in kind.controls" :key="control.name" :control="control" :value="valueOf(layer.mask.values, control)" :stages="stages"
          :drives="layer.drives" :before="MASK" @drive="(part, title, drive) => emit('set', ...driven(layer, part, title, drive))" @open="(part, title) => emit('openDrive', part, title)"
          @turn-drive="(part, name, value) => emit('turn', `${DRIVE}${part}:${name}`, value)"
          @turn="put(control.name, $event)" @commit="emit('commit', `Mask of ${layer.name}: ${control.title}`)"
          @choose="put(control.name, $event), emit('commit', `Mask of ${layer.name}: ${control.title} ${$event}`)" />
        <DrivenLine
          v-if="catalogue" :control="catalogue.masked" :value="1" :stages="stages" :drives="layer.drives" :still="t('desk.always')"
          @drive="(part, title, drive) => emit('set', ...driven(layer, part, title, drive))" @open="(part, title) => emit('openDrive', part, title)"
          @turn-drive="(part, name, value) => emit('turn', `${DRIVE}${part}:${name}`, value)" @commit="emit('commit', `Mask of ${layer.name}`)" />
        <label class="over"><input type="checkbox" :checked="overlaid" @change="emit('overlay', ($event.target as HTMLInputElement).checked)" /> {{ t('desk.layTheMaskOverThePicture') }}</label>
      </div>
      <LooksBeside :layer="layer.id" :looks="kind.looks" mask />
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 420px) auto;
  justify-content: start;
  gap: 20px 44px;
}
@container (max-width: 560px) {
  .columns {
    grid-template-columns: minmax(0, 420px);
  }
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  margin-bottom: 10px;
}
.second {
  color: var(--second);
  margin-bottom: 10px;
}
.over {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 12px;
}
</style>
