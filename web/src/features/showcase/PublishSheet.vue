<!-- What publishing made: where it plays, and what each piece weighs against what camera apps take. -->
<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Package, PhonesState } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { MOST_BYTES, weight } from '../../document/layers'
import { t } from '../../words'

const props = defineProps<{ made: Package | null }>()
const emit = defineEmits<{ check: [] }>()
const open = defineModel<boolean>({ required: true })

const share = computed(() => (props.made ? Math.min(1, props.made.weight / MOST_BYTES) : 0))
const { complain } = useMessages()
const phones = shallowRef<PhonesState | null>(null)
const asking = ref(false)
const sheet = ref<HTMLElement | null>(null)
watch(open, async (now) => {
  if (!now) return
  phones.value = await api.phones().catch(() => null)
  sheet.value?.focus()
})
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
const address = computed(() => (props.made ? `${location.origin}${props.made.phone}` : ''))
</script>

<template>
  <section v-if="open && made" ref="sheet" class="sheet hanging publish" role="dialog" tabindex="-1" :aria-label="t('showcase.published')" @keydown.esc="open = false">
    <h2>{{ t('showcase.isPublished', { name: made.name }) }}</h2>
    <p class="where">
      {{ t('showcase.itPlaysAt') }} <a :href="made.phone" target="_blank" class="word figure">{{ address }}</a>
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
    <h3>{{ t('showcase.itWeighsOfThe4Mb', { weight: weight(made.weight) }) }}</h3>
    <div class="scale" role="img" :aria-label="t('showcase.ofTheBudget', { share: Math.round(share * 100) })">
      <i :style="{ width: `${share * 100}%` }" :class="{ over: made.weight > MOST_BYTES }" />
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
      <button class="word" @click="((open = false), emit('check'))">{{ t('showcase.checkIt') }}</button>
      <a class="word" :href="`/api/packages/${made.code}/download`" download>{{ t('showcase.downloadThePackage') }}</a>
      <router-link class="word" to="/showcase">{{ t('showcase.seeItInTheShowcase') }}</router-link>
      <span class="gap" />
      <button class="act main" @click="open = false">{{ t('showcase.done') }}</button>
    </footer>
  </section>
</template>

<style scoped>
.where {
  margin: 8px 0 14px;
}
.phones {
  display: flex;
  align-items: center;
  gap: 18px;
  margin-bottom: 22px;
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
