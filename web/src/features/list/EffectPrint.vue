<!-- One effect of the list: its print, what it is called and made of, and what can be done with it. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { EffectState } from '../../api/types'
import { weight } from '../../document/layers'
import NameField from '../controls/NameField.vue'
import LivePicture from '../picture/LivePicture.vue'
import ExportLinks from './ExportLinks.vue'

const props = defineProps<{ state: EffectState; canvas: HTMLCanvasElement | undefined; chosen: boolean; choosing: boolean }>()
const emit = defineEmits<{
  choose: []
  point: [id: string | null]
  rename: [name: string]
  duplicate: []
  publish: []
  remove: []
}>()

const naming = ref(false)
const made = computed(() => props.state.effect.layers.map((layer) => layer.name).join(', ') || 'No layers yet')
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

</script>

<template>
  <article
    class="print" :class="{ chosen, choosing }" :data-effect="state.id" @pointerenter="emit('point', state.id)" @pointerleave="emit('point', null)"
    @focusin="emit('point', state.id)" @focusout="emit('point', null)">
    <div class="frame">
      <router-link :to="`/effects/${state.id}`" class="open" :aria-label="`Open ${state.effect.name}`">
        <LivePicture class="face" :canvas="canvas" :alt="`The camera through ${state.effect.name}`" />
      </router-link>
      <input class="pick" type="checkbox" :checked="chosen" :aria-label="`Choose ${state.effect.name}`" @change="emit('choose')" />
      <v-menu>
        <template #activator="{ props: activator }">
          <button v-bind="activator" class="more" :aria-label="`More for ${state.effect.name}`">…</button>
        </template>
        <div class="sheet menu-list" role="menu" :aria-label="state.effect.name">
          <button role="menuitem" @click="naming = true">Rename</button>
          <button role="menuitem" @click="emit('duplicate')">Duplicate</button>
          <ExportLinks :id="state.id" />
          <button role="menuitem" @click="emit('publish')">Publish</button>
          <button role="menuitem" @click="emit('remove')">Delete</button>
        </div>
      </v-menu>
    </div>
    <NameField
      v-if="naming" :name="state.effect.name" aria-label="Name of the effect" @named="emit('rename', $event)" @close="naming = false" />
    <router-link v-else :to="`/effects/${state.id}`" class="title">{{ state.effect.name }}</router-link>
    <p class="light cut" :title="made">{{ made }}</p>
    <p v-if="state.problems?.length" class="light faulty" :title="state.problems.join('\n')">
      Not all of it is read: {{ state.problems[0] }}
      <a class="word" :href="`/api/effects/${state.id}/document`" :download="`${state.effect.name}.json`">Download it</a>
    </p>
    <p class="light">{{ when.format(new Date(state.changed)) }} · {{ weight(state.weight) }}</p>
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
.face {
  width: 150px;
  height: 267px;
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
