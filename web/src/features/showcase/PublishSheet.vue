<!-- Publishing: what is said and shown of the effect. It closes while it is published; then it shows where it plays. -->
<script setup lang="ts">
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import ListingForm from './ListingForm.vue'
import PublishedPart from './PublishedPart.vue'
import type { Effect, Package } from '../../api/types'
import { useListing } from './useListing'
import { shownNext, usePublishing } from './usePublishing'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{ id: string; effect: Effect; settled: () => Promise<void> }>()
const emit = defineEmits<{ check: [] }>()
const open = defineModel<boolean>({ required: true })

const { say, complain } = useMessages()
const listings = useListing(props.id, complain)
const publishing = usePublishing(props.id)
const { share } = publishing
const router = useRouter()
const made = shallowRef<Package | null>(null)
/** The sheet shows what was published, rather than what is to be said of it. */
const done = ref(false)
const sheet = ref<HTMLElement | null>(null)
const number = computed(() => (made.value?.versions[0]?.number ?? 0) + 1)

// Also where it is open already when what was published is to be shown.
watch([open, shownNext], async ([now, next], [before]) => {
  if (!now || (before && next !== props.id)) return
  done.value = made.value !== null && next === props.id
  try {
    await listings.load()
    const code = listings.state.value?.code
    made.value = code ? await api.package(code).catch(() => null) : null
  } catch (error) {
    complain(error)
  }
  if (next === props.id) {
    shownNext.value = null
    done.value = made.value !== null
  }
  await nextTick()
  sheet.value?.focus()
}, { immediate: true })

/** Show what was published, from whatever page is open by then. */
async function show(): Promise<void> {
  await router.push(`/effects/${props.id}`)
  shownNext.value = props.id
}

async function publish(): Promise<void> {
  open.value = false
  try {
    const found = await publishing.publish(() => props.settled().then(listings.keep))
    if (!found) return
    made.value = found
    if (open.value) done.value = true
    else say(t('showcase.versionIsPublished', { name: found.name, number: found.number }), { label: t('showcase.whatIsPublished'), run: () => void show() })
  } catch (error) {
    complain(error)
  }
}
</script>

<template>
  <section v-if="open" ref="sheet" class="sheet hanging publish" role="dialog" tabindex="-1" :aria-label="t('showcase.publish')" @keydown.esc="open = false">
    <PublishedPart v-if="done && made" :made="made" @made="made = $event" @check="((open = false), emit('check'))" @close="open = false" />
    <template v-else>
      <header>
        <h2>{{ t('showcase.publishIt', { name: effect.name }) }}</h2>
        <button v-if="made" class="word" @click="done = true">{{ t('showcase.whatIsPublished') }}</button>
        <button class="word" @click="open = false">{{ t('list.close') }}</button>
      </header>
      <p v-if="made?.state === 'returned'" class="returned" role="status">{{ t('showcase.itWasReturned', { reason: made.reason }) }}</p>
      <ListingForm :id="id" :effect="effect" :listings="listings" />
      <footer>
        <button class="word" @click="((open = false), emit('check'))">{{ t('showcase.checkIt') }}</button>
        <span class="gap" />
        <template v-if="share !== null">
          <span class="second figure" role="status">{{ t('showcase.isBeingPublished', { share: Math.round(share * 100) }) }}</span>
          <button class="act" @click="publishing.cancel()">{{ t('showcase.cancel') }}</button>
        </template>
        <button class="act main" :disabled="share !== null || !listings.listing.value" @click="publish">{{ number > 1 ? t('showcase.publishVersion', { number }) : t('showcase.publish') }}</button>
      </footer>
    </template>
  </section>
</template>

<style scoped>
.publish {
  width: min(660px, calc(100% - 36px));
}
header,
footer {
  display: flex;
  align-items: baseline;
  gap: 18px;
}
header h2,
.gap {
  flex: 1;
}
.second {
  color: var(--second);
}
.returned {
  margin-top: 10px;
  color: var(--glaze);
}
</style>
