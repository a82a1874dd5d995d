<!-- Who is before the camera: faces, what they do, in which light, by which camera; or a picture of the artist's own. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Real } from '../composables/useRealCamera'
import type { Sittings } from '../composables/useSitting'

const props = defineProps<{ sittings: Sittings; real: Real; still: string | null; stillName: string | null }>()
const emit = defineEmits<{ picture: [file: File]; standIn: [] }>()
const { cast, sitting, put, turn } = props.sittings
const { camera, devices, device, mirrored, starting } = props.real

const open = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
const title = (list: 'people' | 'scripts' | 'lights', key: string) => cast.value?.[list].find((one) => one.key === key)?.title ?? ''
const who = computed(() => (camera.value ? 'My camera' : props.still ? (props.stillName ?? 'Own picture') : title('people', sitting.value.who)))
const staged = computed(() => !camera.value && !props.still)
const doing = computed(() => {
  const { script, light, back } = sitting.value
  const words = script === 'talk' ? title('lights', light) : `${title('scripts', script)}, ${title('lights', light).toLowerCase()}`
  return back ? `${words}, back camera` : words
})

function choose(part: Parameters<typeof put>[0]): void {
  put(part)
  props.real.stop()
  if (props.still) emit('standIn')
}

function chosen(event: Event): void {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (file) emit('picture', file)
  field.value = ''
  open.value = false
}

defineExpose({ toggle: () => (open.value = !open.value) })
</script>

<template>
  <span class="cast">
    <input ref="chooser" type="file" hidden accept="image/png,image/jpeg,image/webp" @change="chosen" />
    <v-menu v-model="open" :close-on-content-click="false" location="start top">
      <template #activator="{ props: activator }">
        <button v-bind="activator" class="now" title="Who is before the camera (E next, R what they do, L light, U other camera)">
          <img v-if="staged" :src="`/api/cast/faces/${sitting.who}.jpg?light=${sitting.light}`" alt="" />
          <span class="words"><b>{{ who }}</b><span v-if="staged" class="doing">{{ doing }}</span></span>
        </button>
      </template>
      <section class="sheet picker" aria-label="Before the camera">
        <div class="people" role="radiogroup" aria-label="Cast">
          <button
            v-for="person in cast?.people" :key="person.key" role="radio" class="person" :aria-checked="staged && person.key === sitting.who"
            @click="choose({ who: person.key })">
            <img :src="`/api/cast/faces/${person.key}.jpg?light=${sitting.light}`" alt="" width="76" height="76" /><span>{{ person.title }}</span>
          </button>
        </div>
        <div class="lights" role="radiogroup" aria-label="Light">
          <button
            v-for="light in cast?.lights" :key="light.key" role="radio" class="person" :aria-checked="staged && light.key === sitting.light"
            @click="choose({ light: light.key })">
            <img :src="`/api/cast/faces/${sitting.who}.jpg?light=${light.key}`" alt="" width="56" height="56" /><span>{{ light.title }}</span>
          </button>
        </div>
        <div class="scripts" role="radiogroup" aria-label="Script">
          <button
            v-for="script in cast?.scripts" :key="script.key" role="radio" class="script" :aria-checked="staged && script.key === sitting.script"
            @click="choose({ script: script.key })">
            {{ script.title }}
          </button>
        </div>
        <div class="last">
          <button class="act" @click="turn()">{{ sitting.back ? 'Back camera' : 'Front camera, mirrored' }}</button>
          <button class="act" title="PNG, JPEG or WebP in the camera's place" @click="chooser?.click()">Own picture …</button>
          <button class="act" :disabled="starting" @click="camera ? real.stop() : real.start()">{{ starting ? 'Asking …' : camera ? 'Stop my camera' : 'My camera' }}</button>
        </div>
        <div v-if="camera" class="last">
          <select v-if="devices.length > 1" class="field" aria-label="Which camera" :value="device" @change="real.start(($event.target as HTMLSelectElement).value)">
            <option v-for="one in devices" :key="one.deviceId" :value="one.deviceId">{{ one.label || 'Camera' }}</option>
          </select>
          <label><input type="checkbox" :checked="mirrored" @change="real.mirror(($event.target as HTMLInputElement).checked)" /> Mirrored</label>
        </div>
        <button v-if="still" class="word" @click="emit('standIn')">Back to the cast</button>
      </section>
    </v-menu>
  </span>
</template>

<style scoped>
.cast {
  min-width: 0;
}
.now {
  display: flex;
  align-items: center;
  gap: 9px;
  max-width: 100%;
  padding: 3px 0;
  text-align: left;
}
.now img {
  width: 34px;
  height: 34px;
  border-radius: 50%;
  outline: 2px solid #fff;
}
.words {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.2;
  white-space: nowrap;
  overflow: hidden;
}
.words b,
.doing {
  overflow: hidden;
  text-overflow: ellipsis;
}
.doing {
  font-size: 12px;
}
.picker {
  width: 400px;
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.people {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 12px 8px;
}
.lights {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 6px;
  padding-top: 14px;
  border-top: 1px solid var(--line);
}
.person {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 5px;
  font-size: 12px;
  line-height: 1.2;
  text-align: center;
}
.person img {
  border-radius: 50%;
  outline: 1px solid var(--line);
}
.lights .person img {
  border-radius: 2px;
}
.person[aria-checked='true'] {
  font-weight: 650;
}
.person[aria-checked='true'] img {
  outline: 3px solid var(--glaze);
}
.scripts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  padding-top: 14px;
  border-top: 1px solid var(--line);
}
.script {
  color: var(--second);
  padding-bottom: 2px;
  border-bottom: 2px solid transparent;
}
.script[aria-checked='true'] {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--glaze);
}
.last {
  display: flex;
  align-items: center;
  gap: 10px;
}
</style>
