<!-- The stand-in for an app's catalogue: what was taken, to be found by words and categories, playing while it is pointed at. -->
<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { Shown } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { CATEGORY_NAMES, inLanguage } from './saying'
import { t } from '../../words'
import ShowPrint from './ShowPrint.vue'

const { complain } = useMessages()
const packages = shallowRef<Shown[] | null>(null)
const sought = ref('')
const category = ref('')
/** Whoever has no key sees what is published and nothing else: no way leads further. */
const letIn = ref(false)
onMounted(async () => {
  void api.profiles().then(() => (letIn.value = true), () => undefined)
  try {
    packages.value = await api.showcase()
  } catch (error) {
    complain(error)
  }
})
const categories = computed(() => Object.keys(CATEGORY_NAMES).filter((key) => packages.value?.some((one) => one.listing?.categories.includes(key))))
const all = (one: Shown): string => [one.name, ...(one.listing?.texts ?? []).flatMap((text) => [text.name, text.line, text.how]), ...(one.listing?.keywords ?? [])].join(' ').toLowerCase()
const found = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (packages.value ?? []).filter((one) => (!category.value || one.listing?.categories.includes(category.value)) && words.every((word) => all(one).includes(word)))
})
</script>

<template>
  <main class="wall-page">
    <header>
      <h1>{{ t('showcase.showcase') }}</h1>
      <span class="second">{{ t('showcase.whatVisitorsCanWear') }}</span>
      <span class="gap" />
      <input v-model="sought" class="field" type="search" :placeholder="t('showcase.search')" :aria-label="t('showcase.search')" />
      <template v-if="letIn">
        <router-link class="word" to="/review">{{ t('showcase.review') }}</router-link>
        <router-link class="word" to="/">{{ t('showcase.allEffects') }}</router-link>
      </template>
    </header>
    <section class="surround wall" :aria-label="t('showcase.packages')">
      <p v-if="categories.length" class="categories" role="radiogroup" :aria-label="t('showcase.categories')">
        <button role="radio" :aria-checked="!category" @click="category = ''">{{ t('showcase.everything') }}</button>
        <button v-for="key in categories" :key="key" role="radio" :aria-checked="category === key" @click="category = key">{{ CATEGORY_NAMES[key] }}</button>
      </p>
      <p v-if="packages && !packages.length" class="none">
        <template v-if="letIn">{{ t('showcase.nothingIsTakenYetPublish') }} <router-link class="word" to="/review">{{ t('showcase.review') }}</router-link></template>
        <template v-else>{{ t('showcase.nothingIsShownYet') }}</template>
      </p>
      <p v-else-if="packages && !found.length" class="none">{{ t('showcase.nothingIsFound') }}</p>
      <article v-for="one in found" :key="one.code" class="entry" :data-code="one.code">
        <router-link :to="`/showcase/${one.code}`"><ShowPrint :code="one.code" :number="one.number" :name="one.name" :clip="one.has_clip" /></router-link>
        <router-link class="title" :to="`/showcase/${one.code}`">{{ inLanguage(one)?.name ?? one.name }}</router-link>
        <p>{{ inLanguage(one)?.line }}</p>
      </article>
    </section>
  </main>
</template>

<style scoped>
.wall {
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 32px 26px;
}
.none,
.categories {
  grid-column: 1 / -1;
}
.categories {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  margin-bottom: -8px;
}
.categories button {
  padding-bottom: 2px;
  color: #fff;
  border-bottom: 2px solid transparent;
}
.categories [aria-checked='true'] {
  font-weight: 650;
  border-color: #fff;
}
input {
  width: 200px;
}
</style>
