<!-- One dial of the wearer's as it is made: what it is called and is, where it starts, what it reads, what it turns. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { EffectDocument } from '../../document/useEffectDocument'
import { endsOf, type Dial } from '../../engine/dials'
import { sum } from '../../document/layers'
import RulerControl from '../controls/RulerControl.vue'
import { t } from '../../words'

/** `last`: the last one that a phone has room for. */
const props = defineProps<{ dial: Dial; users: string; last: boolean; doc: EffectDocument }>()
const emit = defineEmits<{ move: [by: -1 | 1]; remove: [] }>()

const KINDS: Record<Dial['kind'], string> = { number: t('motions.number'), choice: t('motions.choice'), switch: t('motions.switch'), colour: t('motions.colour'), photo: t('motions.photo') }
const isOn = computed(() => Number(props.dial.start) > 0.5)

function set(gesture: string, change: Partial<Dial>): void {
  props.doc.change(gesture, (draft) => draft.dials.forEach((one) => one.id === props.dial.id && Object.assign(one, change)))
}
function name(event: Event): void {
  const title = (event.target as HTMLInputElement).value.trim()
  if (title && title !== props.dial.title) set(t('motions.renameTheDial', { title }), { title })
  else (event.target as HTMLInputElement).value = props.dial.title
}
function kind(event: Event): void {
  const wanted = (event.target as HTMLSelectElement).value as Dial['kind']
  const choices = wanted === 'choice' ? [t('motions.first'), t('motions.second'), t('motions.third')] : []
  const fresh = { ...props.dial, kind: wanted, choices }
  set(t('motions.theDialIs', { title: props.dial.title, kind: KINDS[wanted].toLowerCase() }), { kind: wanted, choices, start: wanted === 'number' ? 0.5 : endsOf(fresh)[wanted === 'colour' ? 1 : 0] })
}
function number(part: 'low' | 'high', event: Event): void {
  const field = event.target as HTMLInputElement
  const value = sum(field.value)
  if (value !== null && value !== props.dial[part]) set(t('motions.whatReads', { title: props.dial.title }), { [part]: value })
  field.value = String(props.dial[part])
}
function choices(event: Event): void {
  const field = event.target as HTMLInputElement
  const given = field.value.split(',').map((one) => one.trim()).filter(Boolean).slice(0, 6)
  if (given.length >= 2 && given.join() !== props.dial.choices.join()) set(t('motions.choicesOf', { title: props.dial.title }), { choices: given, start: Math.min(Number(props.dial.start), given.length - 1) })
  field.value = props.dial.choices.join(', ')
}
/** It is seen at once; the dial is saved when it is let go. */
function start(value: number | string): void {
  props.doc.turn('', `dial:${props.dial.id}:start`, value)
}
const commit = () => props.doc.commit(t('motions.startOf', { title: props.dial.title }))
function key(event: KeyboardEvent): void {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key] as -1 | 1 | undefined
  if (!by || !event.shiftKey) return
  event.preventDefault()
  emit('move', by)
}
</script>

<template>
  <article class="dial-line" :class="{ last }" :data-dial="dial.id" @keydown="key">
    <div class="head">
      <span class="grip" aria-hidden="true" :title="t('motions.dragToOrder')">⠿</span>
      <input class="name-field" :value="dial.title" :aria-label="t('motions.titleOfTheDial')" maxlength="40" @change="name" @keydown.enter="($event.target as HTMLElement).blur()" />
      <select class="field" :value="dial.kind" :aria-label="t('motions.kindOfTheDial')" @change="kind">
        <option v-for="(words, one) in KINDS" :key="one" :value="one">{{ words }}</option>
      </select>
      <button class="word" @click="emit('remove')">{{ t('motions.remove') }}</button>
    </div>
    <template v-if="dial.kind === 'number'">
      <RulerControl :name="t('motions.startsAt')" :value="Number(dial.start)" :neutral="0.5" @turn="start" @commit="commit" />
      <p class="reads">
        {{ t('motions.reads') }} <input class="field figure" size="4" :value="dial.low" :aria-label="t('motions.readsAtZero')" @change="number('low', $event)" />
        {{ t('motions.to') }} <input class="field figure" size="4" :value="dial.high" :aria-label="t('motions.readsAtFull')" @change="number('high', $event)" />
        <input class="field" size="4" maxlength="20" :value="dial.unit" :aria-label="t('motions.unit')" @change="set(t('motions.whatReads', { title: dial.title }), { unit: ($event.target as HTMLInputElement).value })" />
      </p>
    </template>
    <p v-else-if="dial.kind === 'choice'" class="reads">
      {{ t('motions.choices') }} <input class="field wide" :value="dial.choices.join(', ')" :aria-label="t('motions.choices')" @change="choices" />
      {{ t('motions.startsAt').toLowerCase() }}
      <select class="field" :value="Number(dial.start)" :aria-label="t('motions.startsAt')" @change="start(Number(($event.target as HTMLSelectElement).value)), commit()">
        <option v-for="(words, n) in dial.choices" :key="n" :value="n">{{ words }}</option>
      </select>
    </p>
    <p v-else-if="dial.kind === 'switch'" class="reads">
      <label><input type="checkbox" :checked="isOn" @change="start(isOn ? 0 : 1), commit()" /> {{ t('motions.onAtFirst') }}</label>
    </p>
    <p v-else-if="dial.kind === 'colour'" class="reads">
      {{ t('motions.startsAt') }} <input type="color" :value="String(dial.start).slice(0, 7)" :aria-label="t('motions.startsAt')" @input="start(($event.target as HTMLInputElement).value)" @change="commit" />
    </p>
    <p class="used">{{ dial.kind === 'photo' ? t('motions.theWearersOwnPhoto') : users || t('motions.turnsNothingYet') }}</p>
  </article>
</template>

<style scoped>
.dial-line {
  padding-bottom: 10px;
  margin-bottom: 12px;
  border-bottom: 1px solid var(--line);
}
.dial-line.last {
  border-bottom: 2px dashed var(--second);
}
.head {
  display: flex;
  align-items: baseline;
  gap: 10px;
}
.grip {
  cursor: grab;
  color: var(--faint);
}
.reads {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 3px 0;
}
.wide {
  flex: 1;
  min-width: 120px;
}
.used {
  color: var(--second);
  font-size: 12px;
}
</style>
