<!-- A picture of the artist's own: chosen or dropped, shown small. -->
<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Asset } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{ name: string; value: string | null }>()
const emit = defineEmits<{ choose: [asset: string | null] }>()

const { complain } = useMessages()
const chooser = ref<HTMLInputElement | null>(null)
const asset = shallowRef<Asset | null>(null)
const busy = ref('')

watch(
  () => props.value,
  async (hash) => (asset.value = hash ? await api.asset(hash).catch(() => null) : null),
  { immediate: true },
)

async function take(file: File | undefined): Promise<void> {
  if (!file) return
  busy.value = file.name
  try {
    emit('choose', (await api.addPicture(file)).hash)
  } catch (error) {
    complain(error)
  } finally {
    busy.value = ''
  }
}

function chosen(event: Event): void {
  const field = event.target as HTMLInputElement
  void take(field.files?.[0])
  field.value = ''
}
</script>

<template>
  <div class="asset" :data-control="name" @dragover.prevent @drop.prevent.stop="take($event.dataTransfer?.files[0])">
    <span>{{ name }}</span>
    <input ref="chooser" type="file" hidden accept="image/png,image/jpeg,image/webp,image/tiff" @change="chosen" />
    <span v-if="busy" role="status">{{ t('controls.reading', { busy }) }}</span>
    <span v-else-if="value" class="held">
      <img :src="`/api/assets/${value}/file`" alt="" />
      <span class="file">{{ asset?.name }}</span>
      <button class="word" @click="chooser?.click()">{{ t('controls.replace') }}</button>
      <button class="word" @click="emit('choose', null)">{{ t('controls.remove') }}</button>
    </span>
    <span v-else class="held">
      <button class="act" @click="chooser?.click()">{{ t('controls.chooseAPicture') }}</button>
      <span class="second">{{ t('controls.orDropOneHere') }}</span>
    </span>
  </div>
</template>

<style scoped>
.asset {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  column-gap: 14px;
  align-items: center;
  min-height: 42px;
}
.held {
  display: flex;
  gap: 12px;
  align-items: center;
  min-width: 0;
}
.held img {
  width: 36px;
  height: 36px;
  object-fit: cover;
  background: var(--line);
}
.file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.second {
  color: var(--second);
}
</style>
