<!-- What an effect weighs, piece by piece; each in the forms that it may take, with what that costs to the eye; and all made to fit. -->
<script setup lang="ts">
import { computed, ref, shallowReactive, watch } from 'vue'
import { api } from '../../api/client'
import type { FormWeight, ShelfPiece } from '../../api/types'
import { isPicture } from '../../document/material'
import { MOST_BYTES as MOST, weight as inWords } from '../../document/layers'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'
import { useShelf } from './useShelf'
import { followed } from './useWork'
import SavingBeside from './SavingBeside.vue'

type Form = FormWeight['form']
const props = defineProps<{ effect: string; weight: number }>()
const emit = defineEmits<{
  /** Let the effect use other files: from hash to hash. */
  replace: [gesture: string, by: Map<string, string>]
}>()
const open = defineModel<boolean>({ required: true })

const NAMES: Record<Form, string> = {
  png: t('weight.png'), lossless: t('weight.lossless'), webp: t('weight.webp'), half: t('weight.half'), fewer: t('weight.fewer'),
} // prettier-ignore
const { complain, say } = useMessages()
const shelf = useShelf()
const pieces = computed(() => (shelf.pieces.value ?? []).filter((piece) => isPicture(piece) && piece.used.some((one) => one.id === props.effect)))
/** What no form makes lighter. */
const solid = computed(() => (shelf.pieces.value ?? []).filter((piece) => piece.kind === 'mesh' && piece.used.some((one) => one.id === props.effect)))
/** Forms by hash, once they were weighed, and what is being done with a piece. */
const weighed = shallowReactive(new Map<string, FormWeight[]>())
const busy = shallowReactive(new Map<string, string>())
const fitting = ref(false)
/** The piece and form whose cost to the eye is looked at. */
const seen = ref('')
const see = (piece: ShelfPiece, form: Form): void => void (seen.value = seen.value === `${piece.asset.hash} ${form}` ? '' : `${piece.asset.hash} ${form}`)
watch(open, (now) => now && void shelf.refresh().catch(complain), { immediate: true })
watch(() => props.weight, () => open.value && void shelf.refresh().catch(complain)) // prettier-ignore

/** A saving is made of what was there first, not of another saving. */
const rootOf = (piece: ShelfPiece): string => piece.asset.saved?.of ?? piece.asset.hash
const formOf = (piece: ShelfPiece): string => piece.asset.saved?.form ?? ''

async function weigh(piece: ShelfPiece): Promise<FormWeight[]> {
  const root = rootOf(piece)
  const known = weighed.get(root)
  if (known) return known
  busy.set(root, t('weight.weighing'))
  try {
    const job = await followed(await api.weigh(root))
    weighed.set(root, job.weights ?? [])
    return job.weights ?? []
  } finally {
    busy.delete(root)
  }
}

/** The hash of a piece in a form. */
async function made(piece: ShelfPiece, form: Form): Promise<string> {
  const root = rootOf(piece)
  try {
    const job = await followed(await api.saveAs(root, form), (now) => busy.set(root, t('weight.saving', { done: now.done, of: now.of })))
    return job.asset ?? root
  } finally {
    busy.delete(root)
  }
}

async function act(work: () => Promise<unknown>): Promise<void> {
  try {
    await work()
    await shelf.refresh()
  } catch (error) {
    complain(error)
  }
}
const take = (piece: ShelfPiece, form: Form) =>
  act(async () => {
    const name = piece.asset.name
    emit('replace', t('weight.savedAs', { name, form: NAMES[form] }), new Map([[piece.asset.hash, await made(piece, form)]]))
  })
function takeBack(piece: ShelfPiece): void {
  emit('replace', t('weight.tookBack', { name: piece.asset.name }), new Map([[piece.asset.hash, rootOf(piece)]]))
}

async function makeItFit(): Promise<void> {
  if (props.weight <= MOST) return say(t('weight.itFits'))
  fitting.value = true
  await act(async () => {
    const asked = []
    for (const piece of pieces.value) asked.push({ asset: piece.asset.hash, bytes: piece.asset.bytes, forms: (await weigh(piece)).filter((one) => one.form !== formOf(piece)) })
    const others = props.weight - asked.reduce((sum, one) => sum + one.bytes, 0)
    const found = await api.fit({ pieces: asked, room: Math.max(0, MOST - others) })
    if (!found.fits) return say(t('weight.nothingFits'))
    const by = new Map<string, string>()
    for (const piece of pieces.value) {
      const form = found.forms[piece.asset.hash]
      if (form) by.set(piece.asset.hash, await made(piece, form))
    }
    emit('replace', t('weight.madeToFit'), by)
  })
  fitting.value = false
}
</script>

<template>
  <section v-if="open" class="sheet hanging weight" :aria-label="t('weight.weightOfTheEffect')" tabindex="-1" @keydown.esc.stop="open = false">
    <header>
      <h2>{{ t('weight.weight') }}</h2>
      <span :class="{ much: weight > MOST }">{{ t('weight.ofFour', { weight: inWords(weight) }) }}</span>
      <span class="gap" />
      <button class="act main" :disabled="fitting" @click="makeItFit">{{ t('weight.makeItFit') }}</button>
      <button class="word" @click="open = false">{{ t('weight.close') }}</button>
    </header>
    <p v-if="!pieces.length && !solid.length" class="second">{{ t('weight.noPieces') }}</p>
    <article v-for="piece in pieces" :key="piece.asset.hash" :data-weighs="piece.asset.hash">
      <img :src="`/api/assets/${piece.asset.hash}/print`" alt="" />
      <div class="about">
        <p><b>{{ piece.asset.name }}</b> <span class="figure">{{ inWords(piece.asset.bytes) }}</span></p>
        <p v-if="busy.get(rootOf(piece))" class="second" role="status">{{ busy.get(rootOf(piece)) }}</p>
        <p v-else class="ways">
          <button v-if="!weighed.has(rootOf(piece))" class="word" @click="act(() => weigh(piece))">{{ t('weight.weighIt') }}</button>
          <button v-if="piece.asset.saved" class="word" @click="takeBack(piece)">{{ t('weight.takeItBack') }}</button>
        </p>
        <div v-if="weighed.has(rootOf(piece))" class="forms">
          <div v-for="one in weighed.get(rootOf(piece))" :key="one.form">
            <button class="form" :aria-pressed="formOf(piece) === one.form" @click="take(piece, one.form)">
              <b>{{ NAMES[one.form] }}</b><span class="figure">{{ inWords(one.bytes) }}</span><span class="figure second">{{ t('weight.alike', { alike: one.alike.toFixed(3) }) }}</span>
            </button>
            <button v-if="one.alike < 1" class="word see" :aria-pressed="seen === `${piece.asset.hash} ${one.form}`" :aria-label="t('weight.seeForm', { form: NAMES[one.form] })" @click="see(piece, one.form)">{{ t('weight.see') }}</button>
          </div>
        </div>
        <template v-for="one in weighed.get(rootOf(piece))" :key="one.form">
          <SavingBeside v-if="seen === `${piece.asset.hash} ${one.form}`" :root="rootOf(piece)" :used="piece.asset.hash" :form="one" :name="NAMES[one.form]" :frames="piece.asset.sequence?.frames ?? 1" />
        </template>
      </div>
    </article>
    <article v-for="piece in solid" :key="piece.asset.hash" :data-weighs="piece.asset.hash">
      <img :src="`/api/assets/${piece.asset.hash}/print`" alt="" />
      <div class="about">
        <p><b>{{ piece.asset.name }}</b> <span class="figure">{{ inWords(piece.asset.bytes) }}</span></p>
        <p class="second">{{ t('weight.meshesStay', { triangles: (piece.asset.mesh?.triangles ?? 0).toLocaleString('en'), texture: piece.asset.mesh?.texture?.join(' × ') ?? t('weight.none') }) }}</p>
      </div>
    </article>
    <p class="second">{{ t('weight.lookupsStay') }}</p>
  </section>
</template>

<style scoped>
.weight {
  top: auto;
  bottom: 52px;
}
header {
  display: flex;
  gap: 14px;
  align-items: baseline;
  margin-bottom: 10px;
}
.gap {
  flex: 1;
}
.second {
  color: var(--second);
}
.much {
  color: var(--bad);
  font-weight: 650;
}
article {
  display: grid;
  grid-template-columns: 56px 1fr;
  gap: 12px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
article img {
  width: 56px;
  height: 56px;
  object-fit: contain;
  background: #7d7a73;
}
.ways {
  display: flex;
  gap: 14px;
}
.forms {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}
.form {
  display: flex;
  flex-direction: column;
  text-align: left;
  font-size: 12px;
  padding: 2px 0;
  border-bottom: 2px solid transparent;
}
.form b {
  font-weight: 500;
}
.form[aria-pressed='true'] b {
  font-weight: 650;
}
.form[aria-pressed='true'] {
  border-color: var(--ink);
}
.see {
  font-size: 12px;
}
.see[aria-pressed='true'] {
  font-weight: 650;
}
.form:hover {
  background: var(--chalk);
}
</style>
