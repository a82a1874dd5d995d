<!-- What of one kind stands on the sheet: people, lights, screens or moments, each chosen by a tick. -->
<script setup lang="ts">
import { ref } from 'vue'
import { chosenFiles } from '../../api/files'
import { t } from '../../words'

defineProps<{ title: string; said: string; choices: { key: string; title: string }[]; chosen: string[]; several: boolean; files?: boolean }>()
const emit = defineEmits<{ choose: [keys: string[]]; file: [file: File] }>()
const chooser = ref<HTMLInputElement | null>(null)

function turned(key: string, chosen: string[], several: boolean, choices: { key: string }[]): void {
  if (!several) return emit('choose', [key])
  const next = choices.map((one) => one.key).filter((one) => (one === key ? !chosen.includes(key) : chosen.includes(one)))
  if (next.length) emit('choose', next)
}
function given(event: Event): void {
  const [file] = chosenFiles(event)
  if (file) emit('file', file)
}
</script>

<template>
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: activator }"><button v-bind="activator" class="axis">{{ title }} <b>{{ said }}</b></button></template>
    <div class="sheet menu-list" role="group" :aria-label="title">
      <label v-for="one in choices" :key="one.key">
        <input :type="several ? 'checkbox' : 'radio'" :checked="chosen.includes(one.key)" :name="title" @change="turned(one.key, chosen, several, choices)" /> {{ one.title }}
      </label>
      <template v-if="files">
        <input ref="chooser" type="file" hidden accept="image/png,image/jpeg,image/webp,video/*" @change="given" />
        <button @click="chooser?.click()">{{ t('proof.ownPhotoOrClip') }}</button>
      </template>
    </div>
  </v-menu>
</template>

<style scoped>
.axis {
  white-space: nowrap;
}
.axis b {
  text-decoration: underline;
  text-decoration-color: var(--line);
  text-decoration-thickness: 1.5px;
  text-underline-offset: 4px;
}
</style>
