<!-- Publishing: what is said and shown of the effect, then where it plays, its versions, and what each piece weighs. -->
<script setup lang="ts">
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import ListingForm from './ListingForm.vue'
import PublishedPart from './PublishedPart.vue'
import type { Effect, Package } from '../../api/types'
import { useListing } from './useListing'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const props = defineProps<{ id: string; effect: Effect; settled: () => Promise<void> }>()
const emit = defineEmits<{ check: [] }>()
const open = defineModel<boolean>({ required: true })

const { complain } = useMessages()
const listings = useListing(props.id, complain)
const made = shallowRef<Package | null>(null)
/** The sheet shows what was published, rather than what is to be said of it. */
const done = ref(false)
const working = shallowRef<AbortController | null>(null)
const sheet = ref<HTMLElement | null>(null)
const number = computed(() => (made.value?.versions[0]?.number ?? 0) + 1)

watch(open, async (now) => {
  working.value?.abort()
  if (!now) return
  done.value = false
  try {
    await listings.load()
    const code = listings.state.value?.code
    made.value = code ? await api.package(code).catch(() => null) : null
  } catch (error) {
    complain(error)
  }
  await nextTick()
  sheet.value?.focus()
})

async function publish(): Promise<void> {
  const leave = new AbortController()
  working.value = leave
  try {
    await props.settled()
    await listings.keep()
    made.value = await api.publish(props.id, leave.signal)
    done.value = true
  } catch (error) {
    if (!leave.signal.aborted) complain(error)
  } finally {
    if (working.value === leave) working.value = null
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
        <span v-if="working" class="second" role="status">{{ t('showcase.filmedAndPacked') }}</span>
        <button v-if="working" class="act" @click="working.abort()">{{ t('showcase.cancel') }}</button>
        <button class="act main" :disabled="working !== null || !listings.listing.value" @click="publish">{{ number > 1 ? t('showcase.publishVersion', { number }) : t('showcase.publish') }}</button>
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
