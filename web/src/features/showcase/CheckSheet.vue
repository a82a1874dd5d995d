<!-- Pre-flight: what may keep the effect from being taken or worn; what stops it comes first, and each leads to where it is mended. -->
<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import { chosenFiles } from '../../api/files'
import type { CheckFound, ProfileKind } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { withOne } from './checks'
import { t } from '../../words'

const props = defineProps<{ id: string; settled: () => Promise<void> }>()
const emit = defineEmits<{ show: [layer: string]; weigh: []; list: []; tidy: [] }>()
const open = defineModel<boolean>({ required: true })

const { complain } = useMessages()
const profiles = shallowRef<ProfileKind[]>([])
const profile = ref('camera-app')
const found = shallowRef<CheckFound[] | null>(null)
const running = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
const named = computed(() => (profiles.value.find((one) => one.name === profile.value)?.title ?? 'profile').toLowerCase().replace(/[^a-z0-9]+/g, '-'))
let asked = 0
let leaving = new AbortController()
onBeforeUnmount(() => leaving.abort())

const SAYS = { stops: t('showcase.stops'), look: t('showcase.toLookAt'), passed: t('showcase.passed') }
const said = computed(() => {
  const count = (state: CheckFound['state']) => (found.value ?? []).filter((one) => one.state === state).length
  if (count('stops')) return t('showcase.stopsIt', { count: count('stops') })
  return count('look') ? t('showcase.wantsALook', { count: count('look') }) : t('showcase.nothingStopsIt')
})

async function check(): Promise<void> {
  const mine = ++asked
  running.value = true
  leaving.abort()
  leaving = new AbortController()
  try {
    await props.settled()
    found.value = []
    await api.preflight(props.id, profile.value, (one) => mine === asked && (found.value = withOne(found.value ?? [], one)), leaving.signal)
  } catch (error) {
    if (mine === asked) complain(error)
  } finally {
    if (mine === asked) running.value = false
  }
}
/** Limits of one's own go onto the shelf, and are checked against at once. */
async function bring(event: Event): Promise<void> {
  const [file] = chosenFiles(event)
  if (!file) return
  try {
    const { piece } = await api.toShelf(file)
    if (piece.kind !== 'profile') return complain(new Error(t('showcase.noLimits', { name: piece.asset.name })))
    profiles.value = await api.profiles()
    profile.value = piece.asset.hash
    await check()
  } catch (error) {
    complain(error)
  }
}
/** What can be mended at a press is, and looked at again. */
async function mend(): Promise<void> {
  emit('tidy')
  await check()
}
watch(open, async (now) => {
  if (!now) {
    asked++
    return leaving.abort()
  }
  found.value = null
  profiles.value = await api.profiles().catch(() => [])
  // Limits of one's own may have been taken off the shelf.
  if (!profiles.value.some((one) => one.name === profile.value)) profile.value = 'camera-app'
  await check()
}, { immediate: true })
</script>

<template>
  <section v-if="open" class="sheet hanging check" role="dialog" :aria-label="t('showcase.beforeItLeaves')" @keydown.esc="open = false">
    <header>
      <h2>{{ t('showcase.beforeItLeaves') }}</h2>
      <label class="second">{{ t('showcase.against') }}
        <select v-model="profile" class="field" @change="check"><option v-for="one in profiles" :key="one.name" :value="one.name">{{ one.title }}</option></select>
      </label>
      <v-menu>
        <template #activator="{ props: activator }"><button v-bind="activator" class="word" :aria-label="t('showcase.moreLimits')">…</button></template>
        <div class="sheet menu-list" role="menu" :aria-label="t('showcase.moreLimits')">
          <a role="menuitem" :href="`/api/profiles/${profile}`" :download="`${named}.json`">{{ t('showcase.downloadTheseLimits') }}</a>
          <button role="menuitem" @click="chooser?.click()">{{ t('showcase.bringInLimits') }}</button>
        </div>
      </v-menu>
      <input ref="chooser" type="file" accept=".json" hidden @change="bring" />
      <button class="word" @click="open = false">{{ t('list.close') }}</button>
    </header>
    <p class="verdict" role="status">{{ running ? t('showcase.itIsLookedThrough') : said }}</p>
    <ul v-if="found">
      <li v-for="one in found" :key="one.id" :class="one.state">
        <b>{{ one.title }}</b>
        <span class="state">{{ SAYS[one.state] }}</span>
        <span class="words">{{ one.words }}</span>
        <span class="acts">
        <button v-if="one.mend === 'remove layers that are off'" class="word" @click="mend">{{ t('showcase.removeThem') }}</button>
        <button v-if="one.mend === 'fill the listing'" class="word" @click="((open = false), emit('list'))">{{ t('showcase.sayIt') }}</button>
        <button v-if="one.layer" class="word" @click="emit('show', one.layer)">{{ t('showcase.goThere') }}</button>
        <button v-else-if="one.weighs" class="word" @click="emit('weigh')">{{ t('showcase.makeItLighter') }}</button>
        </span>
        <img v-if="one.strip" class="strip" :src="one.strip" :alt="t('showcase.thatSecond')" />
      </li>
    </ul>
    <footer><button class="act" :disabled="running" @click="check">{{ t('showcase.checkAgain') }}</button></footer>
  </section>
</template>

<style scoped>
.check {
  width: 600px;
  max-height: calc(100vh - 80px);
  overflow: auto;
}
header {
  display: flex;
  align-items: baseline;
  gap: 8px 18px;
}
header h2 {
  flex: 1;
}
.verdict {
  margin: 10px 0 12px;
  font-size: 17px;
  font-weight: 650;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 150px 84px minmax(0, 1fr) auto;
  gap: 2px 14px;
  align-items: baseline;
  padding: 7px 0;
  border-top: 1px solid var(--line);
}
.acts {
  display: flex;
  gap: 12px;
}
.state {
  color: var(--second);
}
.words {
  color: var(--second);
}
.strip {
  grid-column: 1 / -1;
  width: 100%;
  margin: 4px 0;
}
.look .state {
  color: var(--glaze);
  font-weight: 650;
}
.stops .state,
.stops .words {
  color: var(--bad);
  font-weight: 650;
}
.passed b {
  font-weight: 500;
}
.second {
  color: var(--second);
}
footer {
  margin-top: 14px;
}
</style>
