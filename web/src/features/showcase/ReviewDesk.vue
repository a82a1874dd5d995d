<!-- The desk of the reviewer: what was submitted, looked at as a visitor sees it, checked on the package alone, taken or returned. -->
<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { CheckFound, Package } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import ShowPrint from './ShowPrint.vue'
import { CATEGORY_NAMES, inLanguage } from './saying'
import { STATES } from './states'
import { withOne } from './checks'
import { t } from '../../words'

const { say, complain } = useMessages()
const ORDER: Package['state'][] = ['in review', 'submitted', 'returned', 'taken']
const packages = shallowRef<Package[] | null>(null)
const chosen = ref('')
const found = shallowRef<CheckFound[] | null>(null)
const checking = ref(false)
const reason = ref('')
const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
const queue = computed(() => [...(packages.value ?? [])].sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state) || a.moved.localeCompare(b.moved)))
const one = computed(() => packages.value?.find((one) => one.code === chosen.value) ?? null)
const SAYS = { stops: t('showcase.stops'), look: t('showcase.toLookAt'), passed: t('showcase.passed') }

async function refresh(): Promise<void> {
  try {
    packages.value = await api.packages()
  } catch (error) {
    complain(error)
  }
}
onMounted(refresh)

async function choose(code: string): Promise<void> {
  chosen.value = code
  reason.value = one.value?.reason ?? ''
  found.value = null
}
async function step(state: Package['state'], words: string): Promise<void> {
  const now = one.value
  if (!now) return
  try {
    await api.review(now.code, state, reason.value)
    await refresh()
    say(words)
  } catch (error) {
    complain(error)
  }
}
/** Taking it up runs the checks again, on what was published alone. */
async function check(): Promise<void> {
  const now = one.value
  if (!now) return
  checking.value = true
  try {
    if (now.state === 'submitted') await api.review(now.code, 'in review')
    await refresh()
    found.value = []
    await api.checkPackage(now.code, (one) => {
      if (chosen.value === now.code) found.value = withOne(found.value ?? [], one)
    })
  } catch (error) {
    complain(error)
  } finally {
    checking.value = false
  }
}
</script>

<template>
  <main class="review">
    <header class="page-bar">
      <h1>{{ t('showcase.review') }}</h1>
      <span class="second">{{ t('showcase.asTheTradeHasIt') }}</span>
      <span class="gap" />
      <router-link class="word" to="/showcase">{{ t('showcase.showcase') }}</router-link>
      <router-link class="word" to="/">{{ t('showcase.allEffects') }}</router-link>
    </header>
    <nav :aria-label="t('showcase.queue')">
      <p v-if="packages && !packages.length" class="second">{{ t('showcase.nothingIsPublishedYetOpenAn') }}</p>
      <button v-for="each in queue" :key="each.code" class="entry" :aria-current="each.code === chosen" :data-code="each.code" @click="choose(each.code)">
        <img :src="`/api/packages/${each.code}/files/icon.png?number=${each.number}`" alt="" width="44" height="44" />
        <span><b>{{ each.name }}</b><br /><span class="state" :class="each.state.replace(' ', '-')">{{ STATES[each.state] }}</span> <span class="second">{{ when.format(new Date(each.moved)) }}</span></span>
      </button>
    </nav>
    <section v-if="one" class="desk" :aria-label="one.name">
      <h2>{{ one.name }} <span class="second">{{ t('showcase.version', { number: one.number }) }}</span></h2>
      <p class="line">{{ inLanguage(one)?.line }}</p>
      <p>{{ inLanguage(one)?.how }}</p>
      <p class="second">{{ [...(one.listing?.categories.map((key) => CATEGORY_NAMES[key]) ?? []), ...(one.listing?.keywords ?? [])].join(' · ') }}</p>
      <p v-if="one.versions[0]?.changes.length" class="second">{{ t('showcase.sinceTheLast', { changes: one.versions[0].changes.join('. ') }) }}</p>
      <p v-if="one.taken && one.plays !== one.number" class="second">{{ t('showcase.visitorsWear', { number: one.plays }) }}</p>
      <p class="acts">
        <button class="act" :disabled="checking" @click="check">{{ checking ? t('showcase.itIsLookedThrough') : one.state === 'submitted' ? t('showcase.takeItUp') : t('showcase.checkAgain') }}</button>
        <a class="word" :href="`${one.phone}?number=${one.number}`" target="_blank">{{ t('showcase.openOnAPhone') }}</a>
        <a class="word" :href="`/api/packages/${one.code}/download?number=${one.number}`" download>{{ t('showcase.download') }}</a>
        <router-link class="word" :to="`/effects/${one.effect}`">{{ t('showcase.theArtistsWorkbench') }}</router-link>
      </p>
      <ul v-if="found">
        <li v-for="each in found" :key="each.id" :class="each.state"><b>{{ each.title }}</b> <span class="says">{{ SAYS[each.state] }}</span> <span>{{ each.words }}</span><img v-if="each.strip" class="strip" :src="each.strip" :alt="t('showcase.thatSecond')" /></li>
      </ul>
      <template v-if="one.state === 'in review'">
        <label class="second" for="reason">{{ t('showcase.reason') }}</label>
        <textarea id="reason" v-model="reason" class="field" rows="3" maxlength="2000" />
        <p class="acts">
          <button class="act main" @click="step('taken', t('showcase.isTaken', { name: one.name }))">{{ t('showcase.take') }}</button>
          <button class="act" :disabled="!reason.trim()" @click="step('returned', t('showcase.isReturned', { name: one.name }))">{{ t('showcase.return') }}</button>
        </p>
      </template>
      <p v-else-if="one.state === 'returned'" class="returned">{{ t('showcase.itWasReturned', { reason: one.reason }) }}</p>
      <p class="acts"><button class="word" @click="step('withdrawn', t('showcase.isWithdrawnItsAddressNoLonger', { name: one.name }))">{{ t('showcase.withdraw') }}</button></p>
    </section>
    <section v-else class="desk second">{{ t('showcase.chooseWhatIsReviewed') }}</section>
    <aside class="surround"><ShowPrint v-if="one" :key="`${one.code} ${one.number}`" :code="one.code" :number="one.number" :name="one.name" :clip="one.has_clip" /></aside>
  </main>
</template>

<style scoped>
.review {
  display: grid;
  grid-template: 46px minmax(0, 1fr) / 270px minmax(0, 1fr) 34%;
  height: 100vh;
}
.second {
  color: var(--second);
  font-weight: 400;
}
nav {
  overflow: auto;
  padding: 10px 0;
}
.entry {
  display: flex;
  gap: 12px;
  width: 100%;
  padding: 8px 18px;
  text-align: left;
}
.entry[aria-current='true'],
.entry:hover {
  background: var(--paper);
}
.entry img {
  object-fit: cover;
}
.submitted,
.in-review {
  color: var(--glaze);
  font-weight: 650;
}
.desk {
  overflow: auto;
  padding: 24px 28px;
  background: var(--paper);
}
.desk > * {
  margin-bottom: 12px;
}
.line {
  font-size: 17px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 20px;
  align-items: baseline;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 150px 74px minmax(0, 1fr);
  gap: 12px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
.strip {
  grid-column: 1 / -1;
  width: 100%;
  margin: 4px 0;
}
.look .says {
  color: var(--glaze);
  font-weight: 650;
}
.stops {
  color: var(--bad);
}
.passed b {
  font-weight: 500;
}
textarea {
  display: block;
  width: 100%;
  padding: 8px;
  border: 1px solid var(--line);
}
.returned {
  color: var(--glaze);
}
aside {
  display: grid;
  place-items: center;
  padding: 24px;
  background: var(--surround);
}
aside > * {
  height: min(100%, 700px);
  max-width: 100%;
  margin: 0;
}
</style>
