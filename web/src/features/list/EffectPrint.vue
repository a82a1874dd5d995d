<!-- One effect of the list: its print, what it is called and made of, and what can be done with it. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { EffectState } from '../../api/types'
import { weight } from '../../document/layers'
import NameField from '../controls/NameField.vue'
import LivePicture from '../picture/LivePicture.vue'
import { usePublishing } from '../showcase/usePublishing'
import ExportLinks from './ExportLinks.vue'
import { t } from '../../words'

const props = defineProps<{ state: EffectState; canvas: HTMLCanvasElement | undefined; print: string; fault: string | undefined; chosen: boolean; choosing: boolean }>()
const emit = defineEmits<{
  choose: []
  point: [id: string | null]
  rename: [name: string]
  duplicate: []
  publish: []
  remove: []
}>()

const naming = ref(false)
const publishing = usePublishing(props.state.id)
const { share } = publishing
/** Nothing was drawn of it yet. */
const bare = ref(true)
const made = computed(() => props.state.effect.layers.map((layer) => layer.name).join(', ') || t('list.noLayersYet'))
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

</script>

<template>
  <article
    class="print" :class="{ chosen, choosing }" :data-effect="state.id" @pointerenter="emit('point', state.id)" @pointerleave="emit('point', null)"
    @focusin="emit('point', state.id)" @focusout="emit('point', null)">
    <div class="frame">
      <router-link :to="`/effects/${state.id}`" class="open" :aria-label="t('list.open', { name: state.effect.name })">
        <LivePicture v-if="canvas" class="face" :canvas="canvas" :alt="t('list.theCameraThrough', { name: state.effect.name })" />
        <img v-else class="face" :class="{ bare }" :src="print" :alt="t('list.theCameraThrough', { name: state.effect.name })" @load="bare = false" @error="bare = true" />
      </router-link>
      <input class="pick" type="checkbox" :checked="chosen" :aria-label="t('list.choose', { name: state.effect.name })" @change="emit('choose')" />
      <v-menu>
        <template #activator="{ props: activator }">
          <button v-bind="activator" class="more" :aria-label="t('list.moreFor', { name: state.effect.name })">…</button>
        </template>
        <div class="sheet menu-list" role="menu" :aria-label="state.effect.name">
          <button role="menuitem" @click="naming = true">{{ t('list.rename') }}</button>
          <button role="menuitem" @click="emit('duplicate')">{{ t('list.duplicate') }}</button>
          <ExportLinks :id="state.id" />
          <button role="menuitem" @click="emit('publish')">{{ t('list.publish') }}</button>
          <button role="menuitem" @click="emit('remove')">{{ t('list.delete') }}</button>
        </div>
      </v-menu>
    </div>
    <NameField
      v-if="naming" :name="state.effect.name" :aria-label="t('list.nameOfTheEffect')" @named="emit('rename', $event)" @close="naming = false" />
    <router-link v-else :to="`/effects/${state.id}`" class="title">{{ state.effect.name }}</router-link>
    <p class="light cut" :title="made">{{ made }}</p>
    <p v-if="fault" class="light faulty" :title="fault">{{ t('list.notDrawn', { fault }) }}</p>
    <p v-if="state.problems?.length" class="light faulty" :title="state.problems.join('\n')">
      {{ t('list.notAllOfItIsRead', { problems: state.problems[0] }) }}
      <a class="word" :href="`/api/effects/${state.id}/document`" :download="`${state.effect.name}.json`">{{ t('list.downloadIt') }}</a>
    </p>
    <p v-if="share !== null" class="light going" role="status">
      <span>{{ t('list.isBeingPublished', { share: Math.round(share * 100) }) }}</span>
      <button class="word" @click="publishing.cancel()">{{ t('list.cancel') }}</button>
    </p>
    <p v-else class="light">{{ when.format(new Date(state.changed)) }} · {{ weight(state.weight) }}</p>
  </article>
</template>

<style scoped>
.print {
  display: flex;
  flex-direction: column;
  gap: 1px;
  min-width: 0;
}
.frame {
  position: relative;
  margin-bottom: 6px;
}
.open {
  display: block;
  background: #8a8a8a;
}
.face {
  display: block;
  width: 150px;
  height: 267px;
  object-fit: cover;
}
.bare {
  visibility: hidden;
}
.chosen .frame {
  outline: 3px solid #fff;
  outline-offset: 3px;
}
.pick,
.more {
  position: absolute;
  top: 8px;
  opacity: 0;
}
.pick {
  left: 8px;
  width: 20px;
  height: 20px;
  accent-color: var(--ink);
}
.more {
  right: 8px;
  width: 28px;
  height: 22px;
  font-weight: 650;
  line-height: 12px;
  color: var(--ink);
  background: var(--paper);
}
.print:hover .pick,
.print:hover .more,
.print:focus-within .pick,
.print:focus-within .more,
.choosing .pick {
  opacity: 1;
}
@media (hover: none) {
  .pick,
  .more {
    opacity: 1;
  }
}
.print .title {
  font-size: 15px;
  line-height: 1.25;
  overflow-wrap: anywhere;
}
.print .field {
  font-weight: 650;
  border-color: #fff;
}
.light {
  color: #fff;
  font-size: 12.5px;
}
.going {
  display: flex;
  justify-content: space-between;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.faulty {
  padding-left: 8px;
  border-left: 3px solid #fff;
}
</style>
