<!-- All effects, hung as prints on a neutral wall: the one that is pointed at moves. -->
<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import type { DeletedEffect, EffectState, ListedEffect } from '../../api/types'
import { useKeys } from '../workbench/useKeys'
import { useMessages } from '../messages/useMessages'
import { useStream } from '../../stream/useStream'
import { give } from '../../api/files'
import DeletedEffects from './DeletedEffects.vue'
import EffectPrint from './EffectPrint.vue'
import LetIn from './LetIn.vue'
import { ORDERS, found, sorted, type Order } from './finding'
import { publishEffect } from '../showcase/usePublishing'
import { usePrints } from './usePrints'
import { t } from '../../words'

const router = useRouter()
const stream = useStream()
const { say, complain } = useMessages()
const prints = usePrints()
const effects = shallowRef<ListedEffect[] | null>(null)
const deleted = shallowRef<DeletedEffect[]>([])
const bin = ref(false)
const words = ref('')
const order = ref<Order>('changed')
const chosen = ref(new Set<string>())
const over = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
const finder = ref<HTMLInputElement | null>(null)

const shown = computed(() => sorted(found(effects.value ?? [], words.value), order.value))
const taken = computed(() => shown.value.filter((one) => chosen.value.has(one.id)))

async function refresh(): Promise<void> {
  try {
    ;[effects.value, deleted.value] = await Promise.all([api.effects(), api.deleted()])
    chosen.value = new Set(effects.value.filter((one) => chosen.value.has(one.id)).map((one) => one.id))
    if (!deleted.value.length) bin.value = false
  } catch (error) {
    complain(error)
  }
}
onMounted(refresh)

watch(shown, prints.see)

async function create(): Promise<void> {
  try {
    await router.push(`/effects/${(await api.create()).id}`)
  } catch (error) {
    complain(error)
  }
}

async function act(work: Promise<unknown>): Promise<boolean> {
  try {
    await work
    return true
  } catch (error) {
    complain(error)
    return false
  } finally {
    await refresh()
  }
}

/** Files that are dropped or chosen become effects; the last one is opened where it is the only one. */
async function open(files: FileList | null | undefined): Promise<void> {
  over.value = false
  const made: EffectState[] = []
  for (const file of files ?? []) {
    try {
      made.push(await api.importEffect(file))
    } catch (error) {
      complain(error)
    }
  }
  if (made.length === 1 && files?.length === 1) await router.push(`/effects/${made[0]?.id}`)
  else await refresh()
}

function each(of: EffectState[], work: (id: string) => Promise<unknown>): Promise<unknown> {
  // One after the other: each takes the database's write lock.
  return of.reduce<Promise<unknown>>((before, one) => before.then(() => work(one.id)), Promise.resolve())
}

async function remove(of: EffectState[]): Promise<void> {
  if (!(await act(each(of, api.remove)))) return
  const what = of.length === 1 ? of[0]?.effect.name : t('list.effects', { count: of.length })
  say(t('list.deleted2', { what }), { label: of.length === 1 ? t('list.bringItBack') : t('list.bringThemBack'), run: () => void act(each(of, api.restore)) })
}

async function publish(of: EffectState[]): Promise<void> {
  const made: string[] = []
  const isWell = await act(each(of, async (id) => made.push((await publishEffect(id))?.name ?? '')))
  // What was cancelled has no name here; what was refused is said already.
  const names = made.filter((name) => name)
  if (isWell && names.length) say(t('list.publishedTheyAreInTheShowcase', { which: names.length === 1 ? names[0] : t('list.effects', { count: names.length }) }))
}

async function exportAll(of: EffectState[]): Promise<void> {
  try {
    await each(of, (id) => give(id, 'package'))
  } catch (error) {
    complain(error)
  }
}

function choose(id: string): void {
  const next = new Set(chosen.value)
  if (!next.delete(id)) next.add(id)
  chosen.value = next
}

async function find(): Promise<void> {
  bin.value = false
  await nextTick()
  finder.value?.focus()
}

useKeys({ n: () => void create(), f: () => void find(), escape: () => (chosen.value = new Set()), 'ctrl+a': () => (chosen.value = new Set(shown.value.map((one) => one.id))) })
</script>

<template>
  <main class="wall-page" @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="open($event.dataTransfer?.files)">
    <header>
      <h1>Sun Glaze</h1>
      <template v-if="taken.length">
        <span role="status">{{ t('list.chosen', { which: taken.length === 1 ? taken[0]?.effect.name : t('list.effects', { count: taken.length }) }) }}</span>
        <button class="word" @click="act(each(taken, api.duplicate))">{{ t('list.duplicate') }}</button>
        <button class="word" @click="exportAll(taken)">{{ t('list.export') }}</button>
        <button class="word" @click="publish(taken)">{{ t('list.publish') }}</button>
        <button class="word" @click="remove(taken)">{{ t('list.delete') }}</button>
        <button class="word" :title="t('list.escape')" @click="chosen = new Set()">{{ t('list.none') }}</button>
        <span class="gap" />
      </template>
      <template v-else>
        <span class="second">{{ over ? '' : t('list.effectsForTheFestivalsVisitors') }}</span>
        <span v-if="over" role="status">{{ t('list.dropAnEffectHereAPackage') }}</span>
        <span class="gap" />
        <input ref="finder" v-model="words" class="field find" type="search" :placeholder="t('list.findAnEffect')" :aria-label="t('list.findAnEffect')" title="F" @keydown.esc="words = ''" />
        <select v-model="order" class="field" :aria-label="t('list.orderOfTheEffects')">
          <option v-for="(title, key) in ORDERS" :key="key" :value="key">{{ title }}</option>
        </select>
        <button v-if="deleted.length" class="word" :aria-pressed="bin" @click="bin = !bin">{{ bin ? t('list.allEffects') : t('list.deleted3', { count: deleted.length }) }}</button>
        <LetIn />
        <router-link class="word" to="/showcase">{{ t('list.showcase') }}</router-link>
      </template>
      <input ref="chooser" type="file" hidden multiple accept=".glaze,.json" @change="open(($event.target as HTMLInputElement).files)" />
      <button class="word" @click="chooser?.click()">{{ t('list.openAFile') }}</button>
      <button class="act main" title="N" @click="create">{{ t('list.newEffect') }}</button>
    </header>
    <DeletedEffects v-if="bin" :deleted="deleted" @restore="act(api.restore($event))" />
    <section v-else class="surround wall" :aria-label="t('list.effects2')">
      <p v-if="effects === null" role="status">{{ t('list.openingTheEffects') }}</p>
      <div v-else-if="!effects.length" class="none">
        <p>{{ t('list.noEffectsYet') }}</p>
        <button class="act" @click="create">{{ t('list.makeTheFirstOne') }}</button>
      </div>
      <p v-else-if="!shown.length" class="none" role="status">{{ t('list.noEffectIsCalledSoAnd') }}</p>
      <EffectPrint
        v-for="one in shown" :key="one.id" :state="one" :canvas="stream.tiles.get(one.id)" :print="prints.address(one)" :fault="prints.faults.get(one.id)" :chosen="chosen.has(one.id)" :choosing="chosen.size > 0"
        @choose="choose(one.id)" @point="stream.print" @rename="act(api.rename(one.id, $event))" @duplicate="act(api.duplicate(one.id))"
        @publish="publish([one])" @remove="remove([one])" />
    </section>
  </main>
</template>

<style scoped>
.wall {
  grid-template-columns: repeat(auto-fill, 150px);
  gap: 26px;
  padding: 28px 36px 40px;
}
.find {
  width: 190px;
}
.none {
  grid-column: 1 / -1;
  display: flex;
  gap: 16px;
  align-items: center;
}
.none .act {
  color: var(--ink);
}
</style>
