<!-- All effects, hung as live prints on a neutral wall. -->
<script setup lang="ts">
import { nextTick, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import type { EffectState } from '../../api/types'
import LivePicture from '../picture/LivePicture.vue'
import { useKeys } from '../workbench/useKeys'
import { useMessages } from '../messages/useMessages'
import { useStream } from '../../stream/useStream'

const router = useRouter()
const stream = useStream()
const { say, complain } = useMessages()
const effects = shallowRef<EffectState[] | null>(null)
const naming = ref<string | null>(null)
const over = ref(false)
const chooser = ref<HTMLInputElement | null>(null)

async function refresh(): Promise<void> {
  try {
    effects.value = await api.effects()
    stream.gallery(effects.value.map((one) => one.id))
  } catch (error) {
    complain(error)
  }
}
onMounted(refresh)

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
    await refresh()
    return true
  } catch (error) {
    complain(error)
    return false
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

async function remove(one: EffectState): Promise<void> {
  if (!(await act(api.remove(one.id)))) return
  say(`Deleted ${one.effect.name}.`, { label: 'Bring it back', run: () => void act(api.restore(one.id)) })
}

async function rename(id: string): Promise<void> {
  naming.value = id
  await nextTick()
  document.querySelector<HTMLInputElement>('.print .field')?.select()
}

async function named(one: EffectState, event: Event): Promise<void> {
  if (naming.value !== one.id) return
  naming.value = null
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== one.effect.name) await act(api.rename(one.id, name))
}

const when = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

useKeys({ n: () => void create() })
</script>

<template>
  <main class="wall-page" @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="open($event.dataTransfer?.files)">
    <header>
      <h1>Sun Glaze</h1>
      <span class="second">effects for the festival's visitors</span>
      <span class="gap" />
      <span v-if="over" role="status">Drop an effect here: a package (.glaze) or a document (.json)</span>
      <input ref="chooser" type="file" hidden multiple accept=".glaze,.json" @change="open(($event.target as HTMLInputElement).files)" />
      <button class="word" @click="chooser?.click()">Open a file …</button>
      <router-link class="word" to="/showcase">Showcase</router-link>
      <button class="act main" title="N" @click="create">New effect</button>
    </header>
    <section class="surround wall" aria-label="Effects">
      <p v-if="effects === null" role="status">Opening the effects …</p>
      <div v-else-if="!effects.length" class="none">
        <p>No effects yet.</p>
        <button class="act" @click="create">Make the first one</button>
      </div>
      <article v-for="one in effects ?? []" :key="one.id" class="print" :data-effect="one.id">
        <router-link :to="`/effects/${one.id}`" class="open" :aria-label="`Open ${one.effect.name}`">
          <LivePicture class="face" :canvas="stream.tiles.get(one.id)" :alt="`The camera through ${one.effect.name}`" />
        </router-link>
        <input
          v-if="naming === one.id" class="field" :value="one.effect.name" maxlength="80" aria-label="Name of the effect"
          @keydown.enter="named(one, $event)" @keydown.esc="naming = null" @blur="named(one, $event)" />
        <router-link v-else :to="`/effects/${one.id}`" class="title">{{ one.effect.name }}</router-link>
        <p class="light">
          {{ one.effect.layers.map((layer) => layer.name).join(', ') || 'No layers yet' }}
        </p>
        <p v-if="one.problems?.length" class="light faulty" :title="one.problems.join('\n')">
          Not all of it is read: {{ one.problems[0] }}
          <a class="word" :href="`/api/effects/${one.id}/document`" :download="`${one.effect.name}.json`">Download it</a>
        </p>
        <p class="light">{{ when.format(new Date(one.changed)) }}</p>
        <p class="acts">
          <button class="word" @click="rename(one.id)">Rename</button>
          <button class="word" @click="act(api.duplicate(one.id))">Duplicate</button>
          <button class="word" @click="remove(one)">Delete</button>
        </p>
      </article>
    </section>
  </main>
</template>

<style scoped>
.wall {
  grid-template-columns: repeat(auto-fill, 216px);
}
.print {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.face {
  width: 216px;
  height: 384px;
}
.open {
  display: block;
  margin-bottom: 10px;
}
.print .field {
  font-size: 17px;
  font-weight: 650;
  border-color: #fff;
}
.light {
  color: #fff;
  font-size: 13px;
}
.faulty {
  padding-left: 8px;
  border-left: 3px solid #fff;
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
