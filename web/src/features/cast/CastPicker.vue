<!-- Who is before the camera: faces, what they do, in which light, by which camera; or a picture of the artist's own. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import { chosenFiles } from '../../api/files'
import type { Real } from './useRealCamera'
import type { Sittings } from './useSitting'
import type { Tracking } from './useTracking'
import type { Sitting } from '../../camera/standin'
import { startTrackers } from '../../camera/tracker'
import { t } from '../../words'

const props = defineProps<{ sittings: Sittings; real: Real; still: string | null; stillName: string | null; tracking: Tracking; beside: string | null }>()
const emit = defineEmits<{ picture: [file: File]; standIn: []; beside: [who: string | null] }>()
const { cast, sitting, put, turn } = props.sittings
const { camera, devices, device, mirrored, starting } = props.real

const open = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
function choose(): void {
  chooser.value?.click()
  void startTrackers()
}
const title = (list: 'people' | 'scripts' | 'lights', key: string) => cast.value?.[list].find((one) => one.key === key)?.title ?? ''
const who = computed(() => (camera.value ? t('cast.myCamera') : props.still ? (props.stillName ?? t('cast.ownPicture')) : title('people', sitting.value.who)))
const staged = computed(() => !camera.value && !props.still)
const doing = computed(() => {
  const { script, light, back } = sitting.value
  const words = script === 'talk' ? title('lights', light) : `${title('scripts', script)}, ${title('lights', light).toLowerCase()}`
  const shaking = sitting.value.tracked ? t('cast.tracked', { words }) : words
  return back ? t('cast.backCamera', { words: shaking }) : shaking
})

const tracked = computed(() => {
  const { running, done, of } = props.tracking.state
  if (!props.still || camera.value || (!running && done >= of)) return ''
  return running ? t('cast.findingPeopleOf', { done, of }) : t('cast.peopleAreKnownInOf', { done, of })
})
const others = computed(() => cast.value?.people.filter((one) => one.key !== sitting.value.who) ?? [])

const rows = computed(() => [
  { part: 'who' as const, title: t('cast.cast'), choices: cast.value?.people ?? [], wide: 76 },
  { part: 'light' as const, title: t('cast.light'), choices: cast.value?.lights ?? [], wide: 56 },
])
function face(part: Partial<Sitting>): string {
  const { who, light } = { ...sitting.value, ...part }
  return `/api/cast/faces/${who}.jpg?light=${light}`
}

function chosen(event: Event): void {
  const [file] = chosenFiles(event)
  if (file) emit('picture', file)
  open.value = false
}
</script>

<template>
  <span class="cast">
    <input ref="chooser" type="file" hidden accept="image/png,image/jpeg,image/webp,video/*" @change="chosen" />
    <v-menu v-model="open" :close-on-content-click="false" location="start top">
      <template #activator="{ props: activator }">
        <button v-bind="activator" class="now" :title="t('cast.whoIsBeforeTheCameraE')">
          <img v-if="staged" :src="face({})" alt="" />
          <span class="words"><b>{{ who }}</b><span v-if="staged || tracked" class="doing">{{ staged ? doing : tracked }}</span></span>
        </button>
      </template>
      <section class="sheet picker" :aria-label="t('cast.beforeTheCamera')">
        <div v-for="row in rows" :key="row.part" :class="row.part" role="radiogroup" :aria-label="row.title">
          <button
            v-for="one in row.choices" :key="one.key" role="radio" class="person" :aria-checked="staged && one.key === sitting[row.part]"
            @click="put({ [row.part]: one.key })">
            <img :src="face({ [row.part]: one.key })" alt="" :width="row.wide" :height="row.wide" /><span>{{ one.title }}</span>
          </button>
        </div>
        <div class="scripts" role="radiogroup" :aria-label="t('cast.script')">
          <button
            v-for="script in cast?.scripts" :key="script.key" role="radio" class="option" :aria-checked="staged && script.key === sitting.script"
            @click="put({ script: script.key })">
            {{ script.title }}
          </button>
        </div>
        <div class="beside" role="radiogroup" :aria-label="t('cast.beside')">
          <span class="title">{{ t('cast.beside') }}</span>
          <button role="radio" class="option" :aria-checked="!beside" @click="emit('beside', null)">{{ t('cast.nobody') }}</button>
          <button
            v-for="one in others" :key="one.key" role="radio" class="person" :aria-label="one.title" :title="one.title" :aria-checked="one.key === beside"
            @click="emit('beside', one.key)">
            <img :src="face({ who: one.key })" alt="" width="38" height="38" />
          </button>
        </div>
        <div class="last">
          <button class="act" :title="t('cast.theFrontCameraIsMirroredU')" @click="turn()">{{ sitting.back ? t('cast.backCamera2') : t('cast.frontCamera') }}</button>
          <button class="act" :title="t('cast.aPictureOrAClipIn')" @click="choose">{{ t('cast.ownPictureOrClip') }}</button>
          <button class="act" :disabled="starting" @click="camera ? real.stop() : real.start()">{{ starting ? t('cast.asking') : camera ? t('cast.stopMyCamera') : t('cast.myCamera') }}</button>
        </div>
        <label v-if="staged" class="tracked" :title="t('cast.facesShakeAsAPhones')">
          <input type="checkbox" :checked="sitting.tracked" @change="put({ tracked: ($event.target as HTMLInputElement).checked })" /> {{ t('cast.asAPhoneTracksIt') }}
        </label>
        <div v-if="camera" class="last">
          <select v-if="devices.length > 1" class="field" :aria-label="t('cast.whichCamera')" :value="device" @change="real.start(($event.target as HTMLSelectElement).value)">
            <option v-for="one in devices" :key="one.deviceId" :value="one.deviceId">{{ one.label || t('cast.camera') }}</option>
          </select>
          <label><input type="checkbox" :checked="mirrored" @change="real.mirror(($event.target as HTMLInputElement).checked)" /> {{ t('cast.mirrored') }}</label>
        </div>
        <div v-if="still && !camera" class="last">
          <button class="word" @click="emit('standIn')">{{ t('cast.backToTheCast') }}</button>
          <span v-if="tracked" class="doing" role="status">{{ tracked }}</span>
          <button v-if="tracking.state.running" class="word" @click="tracking.stop()">{{ t('cast.stop') }}</button>
          <button v-else-if="tracking.state.done < tracking.state.of" class="word" @click="tracking.start()">{{ t('cast.goOn') }}</button>
        </div>
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
  width: 424px;
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.who {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 12px 8px;
}
.light {
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
.light .person img {
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
.beside {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding-top: 14px;
  border-top: 1px solid var(--line);
}
.title {
  color: var(--second);
}
.last {
  flex-wrap: wrap;
  display: flex;
  align-items: center;
  gap: 10px;
}
</style>
