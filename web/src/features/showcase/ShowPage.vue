<!-- The page of a published effect: its clip, what is said of it, how it is tried on. -->
<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { PhonesState, Shown } from '../../api/types'
import ShowPrint from './ShowPrint.vue'
import { CATEGORY_NAMES, inLanguage } from './saying'
import { weight } from '../../document/layers'
import { t } from '../../words'

const props = defineProps<{ code: string }>()
const one = shallowRef<Shown | null>(null)
const phones = shallowRef<PhonesState | null>(null)
const missing = ref('')
const texts = computed(() => (one.value ? inLanguage(one.value) : null))
const file = (name: string): string => `/api/packages/${props.code}/files/${name}?number=${one.value?.number ?? 1}`
onMounted(async () => {
  try {
    one.value = await api.shown(props.code)
    document.title = one.value.name
    void api.count(props.code, 'opens').catch(() => undefined)
    phones.value = await api.phones().catch(() => null)
  } catch (error) {
    missing.value = error instanceof Error ? error.message : String(error)
  }
})
</script>

<template>
  <main class="page surround">
    <p v-if="missing" role="alert">{{ missing }} <router-link class="word" to="/showcase">{{ t('showcase.showcase') }}</router-link></p>
    <template v-if="one">
      <div class="seen">
        <video v-if="one.has_clip" :poster="file('poster.jpg')" autoplay loop muted playsinline :aria-label="t('showcase.playsThrough', { name: one.name })">
          <source :src="file('clip.webm')" type="video/webm" />
          <source :src="file('clip.mp4')" type="video/mp4" />
        </video>
        <ShowPrint v-else :code="one.code" :number="one.number" :name="one.name" :clip="false" />
      </div>
      <section>
        <p><router-link class="word" to="/showcase">{{ t('showcase.showcase') }}</router-link></p>
        <h1>{{ texts?.name ?? one.name }}</h1>
        <p class="line">{{ texts?.line }}</p>
        <p>{{ texts?.how }}</p>
        <p><a class="try" :href="one.phone">{{ t('showcase.tryItOn') }}</a></p>
        <p v-if="phones?.address" class="code"><img :src="`/api/phones/code.png?path=${encodeURIComponent(one.phone)}`" width="132" height="132" :alt="t('showcase.theAddressAsACodeTo')" /> {{ t('showcase.orScanItWithAPhone') }}</p>
        <p class="small">{{ one.listing?.categories.map((key) => CATEGORY_NAMES[key]).join(' · ') }}</p>
        <p class="small">{{ one.listing?.keywords.join(', ') }}</p>
        <p class="small">
          <template v-if="one.listing?.made_by">{{ t('showcase.madeByWhom', { who: one.listing.made_by }) }} · </template><template v-if="one.listing?.licence">{{ one.listing.licence }} · </template>
          <template v-if="one.listing?.date">{{ one.listing.date }} · </template>{{ t('showcase.version', { number: one.number }) }} · {{ weight(one.weight) }}
        </p>
        <p class="small figure">{{ t('showcase.openedAndTried', { opens: one.opens, tries: one.tries }) }}</p>
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  min-height: 100vh;
  display: grid;
  grid-template-columns: minmax(240px, 420px) minmax(280px, 460px);
  justify-content: center;
  align-items: center;
  gap: 56px;
  padding: 24px 36px;
  background: var(--surround);
  color: #fff;
}
@media (max-width: 700px) {
  .page {
    grid-template-columns: 1fr;
    gap: 20px;
  }
}
.seen {
  max-height: calc(100vh - 48px);
  aspect-ratio: 9 / 16;
  justify-self: end;
  width: 100%;
}
video {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
h1 {
  margin: 18px 0 10px;
  font-size: 34px;
}
section p {
  margin-bottom: 12px;
}
.line {
  font-size: 20px;
}
.try {
  display: inline-block;
  margin: 10px 0;
  padding: 12px 26px;
  background: #fff;
  color: var(--ink);
  font-size: 17px;
  font-weight: 650;
  text-decoration: none;
}
.code {
  display: flex;
  align-items: center;
  gap: 16px;
}
.code img {
  image-rendering: pixelated;
}
.small {
  font-size: 13px;
}
.word {
  text-decoration-color: #b5b5b5;
}
</style>
