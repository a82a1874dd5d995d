<!-- What the whole effect answers to: its cues, the dials of who wears it, and the rehearsal that was kept. -->
<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Effect, Plain } from '../../api/types'
import { CUE } from '../../document/address'
import { newCue, newDial, usersOf } from '../../document/motions'
import type { EffectDocument } from '../../document/useEffectDocument'
import { useCatalogue } from '../../document/useCatalogue'
import { MOST_WORN } from '../../engine/dials'
import type { RehearsalData } from '../../engine/rehearsal'
import { useMessages } from '../messages/useMessages'
import DialLine from './DialLine.vue'
import SentenceLine from './SentenceLine.vue'
import type { Score } from './useScore'
import type { Trying } from './useTrying'
import { t } from '../../words'

const props = defineProps<{ doc: EffectDocument; effect: Effect; score: Score; trying: Trying }>()
const emit = defineEmits<{ close: [] }>()

const RATE = 30
const { catalogue } = useCatalogue()
const { say } = useMessages()
const kindOf = (kind: string) => catalogue.value?.cues.find((one) => one.kind === kind)
const users = (kind: 'cue' | 'dial', id: string) => usersOf(props.effect, kind, id).join(', ')
const seconds = computed(() => ((props.effect.rehearsal?.frames ?? 0) / RATE).toFixed(1))
const taps = computed(() => (props.effect.rehearsal?.steps ?? []).filter((step, n, all) => step.touch?.down && !all.slice(0, n).findLast((one) => one.touch)?.touch?.down).length)

function addCue(event: Event): void {
  const field = event.target as HTMLSelectElement
  const kind = kindOf(field.value)
  field.value = ''
  if (kind) props.doc.change(t('motions.addTheCue', { name: kind.name }), (draft) => draft.cues.push(newCue(draft, kind)))
}
function addDial(): void {
  props.doc.change(t('motions.addADial'), (draft) => draft.dials.push(newDial(draft, 'number', t('motions.strength'))))
}
function rename(id: string, event: Event): void {
  const name = (event.target as HTMLInputElement).value.trim()
  const cue = props.effect.cues.find((one) => one.id === id)
  if (cue && name && name !== cue.name) props.doc.change(t('motions.renameTheCue', { name }), (draft) => draft.cues.forEach((one) => one.id === id && (one.name = name)))
  else if (cue) (event.target as HTMLInputElement).value = cue.name
}
/** What answers to it keeps its place and says that the cue has gone; a kind's first cue goes back to the kind as it is by itself. */
function removeCue(id: string, name: string): void {
  props.doc.change(t('motions.removeTheCue', { name }), (draft) => (draft.cues = draft.cues.filter((one) => one.id !== id)))
  say(t('motions.isRemoved', { name }), { label: t('document.undo'), run: () => void props.doc.undo() })
}
function removeDial(id: string, name: string): void {
  props.doc.change(t('motions.removeTheDial', { name }), (draft) => {
    draft.dials = draft.dials.filter((one) => one.id !== id)
    // What it turned stands where it stands.
    for (const holder of [...draft.layers, ...draft.groups])
      holder.drives = Object.fromEntries(Object.entries(holder.drives).filter(([, drive]) => drive.values.dial !== id))
  })
  say(t('motions.isRemoved', { name }), { label: t('document.undo'), run: () => void props.doc.undo() })
}
function choose(cue: string, name: string, value: Plain): void {
  props.doc.turn('', `${CUE}${cue}:${name}`, value)
  props.doc.commit(t('motions.changeTheCue', { name: props.effect.cues.find((one) => one.id === cue)?.name ?? cue }))
}
function turn(cue: string, name: string, value: Plain): void {
  props.doc.turn('', `${CUE}${cue}:${name}`, value)
}
const dragged = ref<number | null>(null)
function move(from: number, to: number): void {
  if (to < 0 || to >= props.effect.dials.length || from === to) return
  props.doc.change(t('motions.orderTheDials'), (draft) => draft.dials.splice(to, 0, ...draft.dials.splice(from, 1)))
}

async function readFile(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  field.value = ''
  if (!file) return
  try {
    const data = JSON.parse(await file.text()) as RehearsalData
    if (data.format !== 'sun-glaze/rehearsal') throw new Error('format')
    const frames = data.frames || (data.steps?.at(-1)?.frame ?? 0) + RATE
    props.doc.change(t('motions.readARehearsal'), (draft) => (draft.rehearsal = { ...data, version: 2, frames }))
    props.trying.rehearse(true)
  } catch {
    say(t('motions.noRehearsal', { name: file.name }))
  }
}
const saved = computed(() => `data:application/json,${encodeURIComponent(JSON.stringify(props.effect.rehearsal))}`)
</script>

<template>
  <section class="motions" :aria-label="t('motions.cuesAndDials')">
    <header>
      <h2>{{ t('motions.cuesAndDials') }}</h2>
      <p class="second">{{ t('motions.whatTheWholeEffectAnswersTo') }}</p>
      <button class="word" @click="emit('close')">{{ t('motions.close') }}</button>
    </header>
    <div class="columns">
      <section class="cues">
        <h3>{{ t('motions.cues') }}</h3>
        <article v-for="cue in effect.cues" :key="cue.id" class="one" :data-cue="cue.id">
          <div class="head">
            <input class="name-field" :value="cue.name" :aria-label="t('motions.nameOfTheCue')" maxlength="80" @change="rename(cue.id, $event)" @keydown.enter="($event.target as HTMLElement).blur()" />
            <span class="fired figure" :title="t('motions.howOftenItFired')">{{ t('motions.times', { count: score.counts.get(cue.id) ?? 0 }) }}</span>
            <button class="word" @click="trying.done({ cue: cue.id })">{{ t('motions.give') }}</button>
            <button class="word" @click="removeCue(cue.id, cue.name)">{{ t('motions.remove') }}</button>
          </div>
          <SentenceLine
            v-if="kindOf(cue.kind)" :sentence="kindOf(cue.kind)?.sentence ?? ''" :controls="kindOf(cue.kind)?.controls ?? []" :values="cue.values"
            @turn="(name, value) => turn(cue.id, name, value)" @commit="doc.commit(t('motions.changeTheCue', { name: cue.name }))" @choose="(name, value) => choose(cue.id, name, value)" />
          <p class="used">{{ users('cue', cue.id) || t('motions.nothingAnswersToItYet') }}</p>
        </article>
        <p v-if="!effect.cues.length" class="second">{{ t('motions.noCuesYet') }}</p>
        <select class="field add" :aria-label="t('motions.addACue')" value="" @change="addCue">
          <option value="" hidden>{{ t('motions.addACue') }}</option>
          <option v-for="kind in catalogue?.cues" :key="kind.kind" :value="kind.kind" :title="kind.help">{{ kind.name }}</option>
        </select>
      </section>
      <section class="dialled">
        <h3>{{ t('motions.dialsForTheWearer') }}</h3>
        <DialLine
          v-for="(dial, n) in effect.dials" :key="dial.id" :dial="dial" :users="users('dial', dial.id)" :last="n === MOST_WORN - 1 && effect.dials.length > MOST_WORN" draggable="true" :doc="doc"
          @dragstart="dragged = n" @dragover.prevent @drop.prevent.stop="dragged !== null && move(dragged, n)" @dragend="dragged = null" @move="move(n, n + $event)" @remove="removeDial(dial.id, dial.title)" />
        <p v-if="!effect.dials.length" class="second">{{ t('motions.noDialsYet') }}</p>
        <button class="act add" @click="addDial">{{ t('motions.addADial') }}</button>
        <h3 class="again">{{ t('motions.rehearsal') }}</h3>
        <p v-if="effect.rehearsal" class="kept">
          {{ t('motions.aRehearsalOf', { seconds, taps }) }}
          <button class="word" :aria-pressed="trying.rehearsing.value" @click="trying.rehearse(!trying.rehearsing.value)">{{ t('motions.playItInALoop') }}</button>
          <a class="word" :href="saved" :download="`${effect.name}.rehearsal.json`">{{ t('motions.saveIt') }}</a>
          <button class="word" @click="trying.forget()">{{ t('motions.forgetIt') }}</button>
        </p>
        <p v-else class="second">{{ t('motions.noRehearsalYet') }}</p>
        <label class="word read">{{ t('motions.readARehearsal') }}<input type="file" accept="application/json,.json" @change="readFile" /></label>
      </section>
    </div>
  </section>
</template>

<style scoped>
.motions {
  container-type: inline-size;
  padding: 14px 18px 28px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 14px;
  margin-bottom: 16px;
}
header .second {
  flex: 1;
}
.columns {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 24px 44px;
}
@container (max-width: 640px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
h3 {
  margin-bottom: 8px;
}
.again {
  margin-top: 30px;
}
.second,
.used {
  color: var(--second);
}
.used {
  font-size: 12px;
}
.one {
  padding-bottom: 12px;
  margin-bottom: 12px;
  border-bottom: 1px solid var(--line);
}
.head {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
.fired {
  color: var(--glaze);
  font-size: 12px;
}
.add {
  margin-top: 4px;
}
.kept {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
.read {
  position: relative;
  display: inline-block;
  margin-top: 6px;
}
.read input {
  position: absolute;
  inset: 0;
  opacity: 0;
  width: 100%;
  cursor: pointer;
}
.read:focus-within {
  outline: 2px solid var(--glaze);
}
</style>
