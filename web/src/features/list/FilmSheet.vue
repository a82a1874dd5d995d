<!-- A clip of the effect, filmed by the server and downloaded: how long, how large, in which form; how far it is, and cancel. -->
<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '../../api/client'
import { giveClip } from '../../api/files'
import type { ClipRequest, CutJob, Effect } from '../../api/types'
import type { Sitting } from '../../camera/standin'
import { followed } from '../shelf/useWork'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{ id: string; effect: Effect; screen: string; sitting: Sitting; settled: () => Promise<void> }>()
const open = defineModel<boolean>({ required: true })
const { complain } = useMessages()

const RATE = 30
const LONGEST = 120
const FORMS: [NonNullable<ClipRequest['form']>, string][] = [['mp4', t('list.mp4H264')], ['webm', t('list.webmVp9')], ['gif', t('list.animatedGif')], ['frames', t('list.pngFilesAsAZip')]]
const SHORTS = [270, 360, 540, 720, 1080] as const
const form = ref(FORMS[0]?.[0] ?? 'mp4')
const short = ref<(typeof SHORTS)[number]>(720)
const seconds = ref(4)
const fps = ref(RATE)
const rehearsed = ref(true)
const job = ref<CutJob | null>(null)
const share = computed(() => (job.value?.of ? job.value.done / job.value.of : 0))
watch(open, (now) => {
  const frames = props.effect.rehearsal?.frames
  if (now && frames) seconds.value = Math.min(LONGEST, Math.round((frames / RATE) * 10) / 10)
}, { immediate: true })

async function film(): Promise<void> {
  try {
    await props.settled()
    const how = { seconds: seconds.value, fps: fps.value, form: form.value, screen: props.screen as '9:16', short: short.value, rehearsed: rehearsed.value, sitting: props.sitting }
    job.value = await api.film(props.id, how)
    const ended = await followed(job.value, (now) => (job.value = now))
    if (ended.state === 'done') await giveClip(ended.id, props.effect.name)
  } catch (error) {
    complain(error)
  } finally {
    job.value = null
  }
}
async function cancel(): Promise<void> {
  if (job.value) await api.cancelCut(job.value.id)
}
const held = (event: Event, low: number, high: number, before: number): number => {
  const value = Number((event.target as HTMLInputElement).value.replace(',', '.'))
  return Number.isFinite(value) && value ? Math.min(high, Math.max(low, value)) : before
}
</script>

<template>
  <section v-if="open" class="sheet hanging film" :aria-label="t('list.aClipOfTheEffect')" @keydown.esc="open = false">
    <header>
      <h2>{{ t('list.aClipOfTheEffect') }}</h2>
      <button class="word" @click="open = false">{{ t('list.close') }}</button>
    </header>
    <p class="choices">
      <label>{{ t('list.seconds') }} <input class="field figure" size="5" :value="seconds" :disabled="job !== null" @change="seconds = held($event, 0.1, LONGEST, seconds)" /></label>
      <label>{{ t('list.aSecond') }} <input class="field figure" size="4" :value="fps" :disabled="job !== null" @change="fps = held($event, 1, form === 'gif' ? 50 : 60, fps)" /></label>
      <label>{{ t('list.form') }}
        <select v-model="form" class="field" :disabled="job !== null"><option v-for="[one, words] in FORMS" :key="one" :value="one">{{ words }}</option></select>
      </label>
      <label>{{ t('list.shortSide') }}
        <select v-model.number="short" class="field figure" :disabled="job !== null"><option v-for="one in SHORTS" :key="one" :value="one">{{ one }}</option></select>
      </label>
    </p>
    <p v-if="effect.rehearsal"><label><input v-model="rehearsed" type="checkbox" :disabled="job !== null" /> {{ t('list.withTheRehearsal') }}</label></p>
    <p class="hint">{{ t('list.asTheStandInShowsIt') }}</p>
    <p v-if="job" class="going" role="status">
      <progress :value="share" max="1" :aria-label="t('list.howFar')" /> <span class="figure">{{ job.done }} / {{ job.of || '…' }}</span>
      <button class="word" @click="cancel">{{ t('list.cancel') }}</button>
    </p>
    <button v-else class="act main" @click="film">{{ t('list.filmIt') }}</button>
  </section>
</template>

<style scoped>
.film {
  width: 460px;
}
header,
.choices,
.going {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 8px 18px;
  margin-bottom: 12px;
}
header h2 {
  flex: 1;
}
.hint {
  color: var(--second);
  margin: 6px 0 14px;
}
progress {
  flex: 1;
  accent-color: var(--ink);
}
</style>
