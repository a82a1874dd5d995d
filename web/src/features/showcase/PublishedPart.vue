<!-- What publishing made: where it plays, how it is embedded, its versions, and what each piece weighs. -->
<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { Package, PhonesState } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { MOST_BYTES, weight } from '../../document/layers'
import { STATES } from './states'
import { t } from '../../words'

const props = defineProps<{ made: Package }>()
const emit = defineEmits<{ check: []; close: []; made: [made: Package] }>()

const { say, complain } = useMessages()
const SHOWN = ['icon.png', 'poster.jpg', 'clip.mp4', 'clip.webm']
const worn = computed(() => props.made.pieces.reduce((sum, piece) => sum + (SHOWN.includes(piece.file) ? 0 : piece.bytes), 0))
const share = computed(() => Math.min(1, worn.value / MOST_BYTES))
const phones = shallowRef<PhonesState | null>(null)
const asking = ref(false)
const address = computed(() => `${location.origin}${props.made.phone}`)
const snippet = computed(() => `<iframe src="${address.value}" title="${props.made.name.replaceAll('"', '&quot;')}" allow="camera; microphone; fullscreen; web-share" width="360" height="640" style="border:0"></iframe>`)
/** Another version is put forward than the one that visitors wear. */
const waits = computed(() => props.made.taken && props.made.plays !== props.made.number)
const newer = computed(() => `${props.made.phone}?number=${props.made.number}`)
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
onMounted(async () => (phones.value = await api.phones().catch(() => null)))

async function toPhones(wanted: boolean): Promise<void> {
  asking.value = true
  try {
    phones.value = await api.openToPhones(wanted)
  } catch (error) {
    complain(error)
  } finally {
    asking.value = false
  }
}
async function putBack(number: number): Promise<void> {
  try {
    const put = await api.putVersionBack(props.made.code, number)
    emit('made', put)
    say(put.plays === number ? t('showcase.playsVersion', { number }) : t('showcase.isLookedAtFirst', { number }))
  } catch (error) {
    complain(error)
  }
}
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(snippet.value).then(() => say(t('showcase.copied')), complain)
}
</script>

<template>
  <h2>{{ t('showcase.isPublished', { name: made.name }) }}</h2>
  <p class="where">
    {{ t('showcase.itPlaysAt') }} <a :href="made.phone" target="_blank" class="word figure">{{ address }}</a>
    <br /><span class="hint">{{ STATES[made.state] }}<template v-if="waits">. {{ t('showcase.visitorsWear', { number: made.plays }) }} <a :href="newer" target="_blank" class="word">{{ t('showcase.tryVersion', { number: made.number }) }}</a></template></span>
  </p>
  <div class="phones" aria-live="polite">
    <template v-if="phones?.address">
      <img :src="`/api/phones/code.png?path=${encodeURIComponent(made.phone)}`" width="148" height="148" :alt="t('showcase.theAddressAsACodeTo')" />
      <div>
        <p>{{ t('showcase.scanItWithAPhoneOn') }}<br /><span class="figure">{{ phones.address }}{{ made.phone }}</span></p>
        <p class="hint">{{ t('showcase.thePhoneAsksOnceWhetherTo', { fingerprint: phones.fingerprint?.slice(0, 23) }) }}</p>
        <button class="word" :disabled="asking" @click="toPhones(false)">{{ t('showcase.closeItToPhones') }}</button>
      </div>
    </template>
    <template v-else>
      <button class="act" :disabled="asking" @click="toPhones(true)">{{ asking ? t('showcase.opening') : t('showcase.openToPhones') }}</button>
      <span class="hint">{{ t('showcase.overHttpsSoThatAPhone') }}</span>
    </template>
  </div>
  <h3>{{ t('showcase.onAPageOfYours') }}</h3>
  <p class="embed"><input class="field figure" readonly :value="snippet" :aria-label="t('showcase.onAPageOfYours')" /><button class="word" @click="copy">{{ t('showcase.copy') }}</button></p>
  <h3>{{ t('showcase.versions') }}</h3>
  <ul>
    <li v-for="one in made.versions" :key="one.number">
      <span class="figure">{{ one.number }}</span>
      <span>{{ when.format(new Date(one.created)) }} · {{ one.changes.join('. ') || (one.number === 1 ? t('showcase.theFirst') : t('showcase.asTheOneBefore')) }}</span>
      <b v-if="one.number === made.plays">{{ t('showcase.plays') }}</b>
      <span v-else-if="one.number === made.number" class="hint">{{ STATES[made.state] }}</span>
      <button v-else class="word" @click="putBack(one.number)">{{ t('showcase.putBack') }}</button>
    </li>
  </ul>
  <h3>{{ t('showcase.itWeighsOfThe4Mb', { weight: weight(worn) }) }}</h3>
  <div class="scale" role="img" :aria-label="t('showcase.ofTheBudget', { share: Math.round(share * 100) })">
    <i :style="{ width: `${share * 100}%` }" :class="{ over: worn > MOST_BYTES }" />
  </div>
  <table>
    <tbody>
      <tr v-for="piece in made.pieces" :key="piece.file">
        <td>{{ piece.what }}</td>
        <td class="figure file">{{ piece.file }}</td>
        <td class="figure bytes">{{ weight(piece.bytes) }}</td>
      </tr>
    </tbody>
  </table>
  <footer>
    <button class="word" @click="emit('check')">{{ t('showcase.checkIt') }}</button>
    <a class="word" :href="`/api/packages/${made.code}/download?number=${made.number}`" download>{{ t('showcase.downloadThePackage') }}</a>
    <a class="word" :href="`/api/effects/${made.effect}/page`" download>{{ t('showcase.asAFolder') }}</a>
    <router-link class="word" to="/review">{{ t('showcase.seeItInReview') }}</router-link>
    <span class="gap" />
    <button class="act main" @click="emit('close')">{{ t('showcase.done') }}</button>
  </footer>
</template>

<style scoped>
.where {
  margin: 8px 0 14px;
}
.phones {
  display: flex;
  align-items: center;
  gap: 18px;
  margin-bottom: 18px;
}
.phones img {
  image-rendering: pixelated;
  border: 1px solid var(--line);
}
.phones p {
  margin-bottom: 8px;
}
.hint {
  color: var(--second);
  font-size: 13px;
}
.embed {
  display: flex;
  gap: 14px;
  margin: 4px 0 18px;
}
.embed input {
  flex: 1;
  font-size: 12px;
}
ul {
  list-style: none;
  margin: 4px 0 18px;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr) auto;
  gap: 10px;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
.scale {
  height: 8px;
  margin: 6px 0 12px;
  background: var(--line);
}
.scale i {
  display: block;
  height: 100%;
  min-width: 2px;
  background: var(--ink);
}
.scale .over {
  background: var(--bad);
}
table {
  width: 100%;
  border-collapse: collapse;
}
td {
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
.file {
  color: var(--second);
  font-size: 12px;
}
.bytes {
  text-align: right;
}
footer {
  display: flex;
  gap: 20px;
  align-items: center;
  margin-top: 20px;
}
.gap {
  flex: 1;
}
</style>
