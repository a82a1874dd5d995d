<!-- A colour: swatch that opens a picker, and its sRGB hex to type. -->
<script setup lang="ts">
import { defineAsyncComponent, ref } from 'vue'
import { usePicker } from '../picture/usePicker'
import { t } from '../../words'

const ColourPalette = defineAsyncComponent(() => import('./ColourPalette.vue'))

const props = defineProps<{ name: string; value: string }>()
const emit = defineEmits<{ turn: [value: string]; commit: [] }>()

const { pick } = usePicker()
const RECENT = 'recent colours'
const MOST_RECENT = 8
const recent = ref<string[]>(JSON.parse(localStorage.getItem(RECENT) ?? '[]'))
const open = ref(false)
const wrong = ref(false)
let start = ''

function opened(now: boolean): void {
  if (now) {
    start = props.value
    recent.value = JSON.parse(localStorage.getItem(RECENT) ?? '[]')
  } else if (props.value !== start) finish(props.value)
}

function finish(colour: string): void {
  recent.value = [colour, ...recent.value.filter((one) => one !== colour)].slice(0, MOST_RECENT)
  localStorage.setItem(RECENT, JSON.stringify(recent.value))
  emit('commit')
}

function take(colour: string): void {
  emit('turn', colour)
  finish(colour)
  start = colour
}

async function fromPicture(): Promise<void> {
  open.value = false
  const colour = await pick()
  if (colour) take(colour)
}

function picked(value: string | Record<string, unknown> | null | undefined): void {
  if (typeof value === 'string' && /^#[0-9a-f]{6}/i.test(value)) {
    const plain = value.slice(0, 7).toLowerCase()
    if (plain !== props.value) emit('turn', plain)
  }
}

function typed(event: Event): void {
  const field = event.target as HTMLInputElement
  const text = field.value.trim().replace(/^#?/, '#').toLowerCase()
  const whole = /^#[0-9a-f]{3}$/.test(text) ? text.replace(/[0-9a-f]/g, '$&$&') : text
  wrong.value = !/^#[0-9a-f]{6}$/.test(whole)
  if (wrong.value) return
  take(whole)
}
</script>

<template>
  <div class="control" :data-control="name">
    <span>{{ name }}</span>
    <v-menu v-model="open" :close-on-content-click="false" @update:model-value="opened">
      <template #activator="{ props: activator }">
        <button v-bind="activator" class="swatch" :style="{ background: value }" :aria-label="t('controls.chooseAnother', { name, value })" />
      </template>
      <div class="sheet picker">
        <ColourPalette :value="value" @picked="picked" />
        <div class="more">
          <button class="word" @click="fromPicture">{{ t('controls.fromThePicture') }}</button>
          <button
            v-for="colour in recent" :key="colour" class="recent" :style="{ background: colour }" :aria-label="t('controls.recent', { colour })" :title="colour"
            @click="take(colour)" />
        </div>
      </div>
    </v-menu>
    <input
      class="field figure" :class="{ wrong }" :value="value" :aria-label="t('controls.srgbHex', { name })" spellcheck="false" maxlength="7"
      @change="typed" />
    <span v-if="wrong" class="reason" role="alert">{{ t('controls.sixHexadecimalDigitsLikeA8420d') }}</span>
  </div>
</template>

<style scoped>
.control {
  height: 42px;
}
.swatch {
  height: 24px;
  border: 1px solid rgb(0 0 0 / 25%);
}
.picker {
  width: 282px;
}
.more {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 4px 14px 12px;
}
.recent {
  width: 18px;
  height: 18px;
  border: 1px solid rgb(0 0 0 / 25%);
}
.field {
  text-align: right;
}
.wrong {
  border-color: var(--bad);
}
</style>
