<!-- What is said and shown of an effect: texts by language, categories, keywords, icon, clip, who made it. -->
<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api } from '../../api/client'
import IconChoice from './IconChoice.vue'
import SeenChoice from './SeenChoice.vue'
import type { Cast, Effect, Listing } from '../../api/types'
import type { Listings } from './useListing'
import { t } from '../../words'

const props = defineProps<{ id: string; effect: Effect; listings: Listings }>()
const { listing, state, change } = props.listings
const cast = shallowRef<Cast | null>(null)
const pictures = shallowRef<{ hash: string; name: string }[]>([])
onMounted(async () => {
  cast.value = await api.cast().catch(() => null)
  const shelf = await api.shelf().catch(() => [])
  pictures.value = shelf.filter((one) => one.kind === 'picture').map((one) => ({ hash: one.asset.hash, name: one.asset.name }))
})

const MOST_KEYWORDS = 60
const at = ref(0)
/** Keywords as they are being typed: commas and spaces stay until one leaves the field. */
const typed = ref<string | null>(null)
const texts = computed(() => listing.value?.texts[at.value] ?? listing.value?.texts[0])
const own = computed(() => props.effect.still !== null)
const languages = new Intl.DisplayNames(['en'], { type: 'language' })
const COMMON = ['en', 'de', 'fr', 'es', 'it', 'pt', 'nl', 'da', 'sv', 'nb', 'fi', 'pl', 'cs', 'tr', 'uk', 'ar', 'hi', 'ja', 'ko', 'zh']
const others = computed(() => COMMON.filter((one) => !listing.value?.texts.some((text) => text.language === one)))
const named = (code: string): string => languages.of(code) ?? code

function say(part: Partial<Listing['texts'][number]>): void {
  change({ texts: (listing.value?.texts ?? []).map((one, n) => (n === at.value ? { ...one, ...part } : one)) })
}
function add(language: string): void {
  const first = listing.value?.texts[0]
  if (!first || !language) return
  change({ texts: [...(listing.value?.texts ?? []), { ...first, language, line: '', how: '' }] })
  at.value = (listing.value?.texts.length ?? 1) - 1
}
function drop(): void {
  change({ texts: (listing.value?.texts ?? []).filter((_, n) => n !== at.value) })
  at.value = 0
}
function turnCategory(key: string): void {
  const now = listing.value?.categories ?? []
  change({ categories: now.includes(key) ? now.filter((one) => one !== key) : [...now, key] })
}
const keywords = (event: Event): string[] =>
  [...new Set((event.target as HTMLInputElement).value.split(',').map((one) => one.trim().slice(0, 40)).filter(Boolean))].slice(0, MOST_KEYWORDS)
const value = (event: Event): string => (event.target as HTMLInputElement).value
const number = (event: Event, low: number, high: number, before: number): number => {
  const found = Number(value(event).replace(',', '.'))
  return Number.isFinite(found) && value(event) ? Math.min(high, Math.max(low, found)) : before
}
function clip(part: Partial<NonNullable<Listing['clip']>>): void {
  if (listing.value?.clip) change({ clip: { ...listing.value.clip, ...part } })
}
function turnClip(): void {
  const seen = listing.value?.icon.seen
  change({ clip: listing.value?.clip || !seen ? null : { seen, begin: 0, seconds: 4 } })
}
</script>

<template>
  <form v-if="listing && texts && state" class="listing" @submit.prevent>
    <p class="languages" role="radiogroup" :aria-label="t('showcase.languages')">
      <button v-for="(one, n) in listing.texts" :key="one.language" type="button" class="option" role="radio" :aria-checked="n === at" @click="at = n">{{ named(one.language) }}</button>
      <select class="field" :aria-label="t('showcase.anotherLanguage')" value="" @change="add(value($event))"><option value="">{{ t('showcase.anotherLanguage') }}</option><option v-for="one in others" :key="one" :value="one">{{ named(one) }}</option></select>
      <button v-if="at > 0" type="button" class="word" @click="drop">{{ t('showcase.leaveItOut', { language: named(texts.language) }) }}</button>
    </p>
    <label>{{ t('showcase.name') }}</label><input class="field" maxlength="80" :aria-label="t('showcase.name')" :value="texts.name" @input="value($event).trim() && say({ name: value($event) })" @change="say({ name: texts.name.trim() })" />
    <p v-if="at === 0 && texts.name !== effect.name" class="second"><button type="button" class="word" @click="say({ name: effect.name })">{{ t('showcase.callIt', { name: effect.name }) }}</button></p>
    <label>{{ t('showcase.oneLine') }}</label><input class="field" maxlength="160" :aria-label="t('showcase.oneLine')" :value="texts.line" @input="say({ line: value($event) })" />
    <label>{{ t('showcase.how') }}</label><input class="field" maxlength="400" :aria-label="t('showcase.how')" :value="texts.how" @input="say({ how: value($event) })" />
    <span>{{ t('showcase.categories') }}</span>
    <p class="categories"><button v-for="one in state.categories" :key="one.key" type="button" class="option" role="checkbox" :aria-checked="listing.categories.includes(one.key)" @click="turnCategory(one.key)">{{ one.title }}</button></p>
    <label>{{ t('showcase.keywords') }}</label><input class="field" :aria-label="t('showcase.keywords')" :placeholder="t('showcase.withCommas')" :value="typed ?? listing.keywords.join(', ')" @input="((typed = value($event)), change({ keywords: keywords($event) }))" @change="typed = null" />
    <span class="high">{{ t('showcase.icon') }}</span>
    <IconChoice :id="id" :at="listing.icon" :cast="cast" :own="own" :pictures="pictures" @change="change({ icon: $event })" />
    <span>{{ t('showcase.clip') }}</span>
    <div class="clip">
      <label><input type="checkbox" :checked="listing.clip !== null" @change="turnClip" /> {{ t('showcase.withAClip') }}</label>
      <template v-if="listing.clip">
        <SeenChoice :seen="listing.clip.seen" :cast="cast" :own="own" @change="clip({ seen: $event })" />
        <p>
          <label>{{ t('showcase.from') }} <input class="field figure" size="4" :value="listing.clip.begin" :aria-label="t('showcase.from')" @change="clip({ begin: number($event, 0, 120, listing.clip.begin) })" /> s</label>
          <label>{{ t('showcase.for') }} <input class="field figure" size="4" :value="listing.clip.seconds" :aria-label="t('showcase.for')" @change="clip({ seconds: number($event, 0.5, 30, listing.clip.seconds) })" /> s</label>
        </p>
      </template>
    </div>
    <label>{{ t('showcase.madeBy') }}</label><input class="field" maxlength="80" :aria-label="t('showcase.madeBy')" :value="listing.made_by" @input="change({ made_by: value($event) })" />
    <label>{{ t('showcase.licence') }}</label><input class="field" maxlength="200" :aria-label="t('showcase.licence')" :placeholder="t('showcase.licenceOfTheMaterial')" :value="listing.licence" @input="change({ licence: value($event) })" />
    <label>{{ t('showcase.date') }}</label><input class="field figure" type="date" :aria-label="t('showcase.date')" :value="listing.date" @change="change({ date: value($event) || null })" />
  </form>
</template>

<style scoped>
.listing {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 10px 16px;
  align-items: baseline;
  margin: 12px 0 18px;
}
.languages {
  grid-column: 1 / -1;
  display: flex;
  gap: 14px;
  align-items: baseline;
}
.listing > span,
.listing > label {
  color: var(--second);
}
.high {
  align-self: start;
}
.categories {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
.second {
  grid-column: 2;
}
.clip {
  display: grid;
  gap: 6px;
}
.clip p {
  display: flex;
  gap: 14px;
}
input[type='date'] {
  width: 130px;
}
</style>
