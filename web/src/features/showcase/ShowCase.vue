<!-- The stand-in for an app's catalogue: what was published, ready to open on a phone. -->
<script setup lang="ts">
import { onMounted, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { Package } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { weight } from '../../document/layers'
import { t } from '../../words'
import ShowPrint from './ShowPrint.vue'

const { say, complain } = useMessages()
const packages = shallowRef<Package[] | null>(null)

async function refresh(): Promise<void> {
  try {
    packages.value = await api.packages()
  } catch (error) {
    complain(error)
  }
}
onMounted(refresh)

async function withdraw(one: Package): Promise<void> {
  try {
    await api.withdraw(one.code)
    await refresh()
    say(t('showcase.isWithdrawnItsAddressNoLonger', { name: one.name }))
  } catch (error) {
    complain(error)
  }
}

const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <main class="wall-page">
    <header>
      <h1>{{ t('showcase.showcase') }}</h1>
      <span class="second">{{ t('showcase.whatVisitorsCanWear') }}</span>
      <span class="gap" />
      <router-link class="word" to="/">{{ t('showcase.allEffects') }}</router-link>
    </header>
    <section class="surround wall" :aria-label="t('showcase.packages')">
      <p v-if="packages && !packages.length" class="none">
        {{ t('showcase.nothingIsPublishedYetOpenAn') }}
      </p>
      <article v-for="one in packages ?? []" :key="one.code" class="entry" :data-code="one.code">
        <a :href="one.phone"><ShowPrint :code="one.code" :name="one.name" /></a>
        <a class="title" :href="one.phone">{{ one.name }}</a>
        <p class="figure">{{ weight(one.weight) }} · {{ one.phone }}</p>
        <p>{{ when.format(new Date(one.created)) }}</p>
        <p class="acts">
          <a class="word" :href="one.phone">{{ t('showcase.openOnAPhone') }}</a>
          <a class="word" :href="`/api/packages/${one.code}/download`" download>{{ t('showcase.download') }}</a>
          <button class="word" @click="withdraw(one)">{{ t('showcase.withdraw') }}</button>
        </p>
      </article>
    </section>
  </main>
</template>

<style scoped>
.wall {
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  gap: 36px 28px;
}
.wall .acts {
  flex-wrap: wrap;
  gap: 4px 12px;
}
.none {
  grid-column: 1 / -1;
}
</style>
