/**
 * One effect being worked on: changed here at once, shown by the stream, saved by itself in order, undone by the server.
 * A save that meets another window's is kept beside it and said so; one that meets no server is tried again.
 */
import { useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { api, Refusal, SERVER_FAILS, UNREACHABLE } from '../api/client'
import type { Effect, EffectState, Layer, Plain } from '../api/types'
import { UNNAMED, assign, nameOf } from './layers'
import { assignMotion } from './motions'
import { t } from '../words'

/** `waiting`: it is tried again by itself; `refused`: it is not, and the next change is saved with it. */
export type Saving = 'saved' | 'saving' | 'waiting' | 'refused'

export interface Watcher {
  show(effect: Effect): void
  remember(effect: Effect): void
  move(layer: string, control: string, value: Plain): void
  say(message: string): void
  /** Resolves when the picture shows the last change, or a little later where it does not come. */
  seen(): Promise<void>
}

/** `again`: what is done where the server went back or forth; `fails`: where it did not, and all is as it is shown. */
interface Meanwhile {
  again: () => void
  fails: () => void
}

const RETRY_MS = 1500
const LONGEST_RETRY_MS = 12_000
const FOLLOW_MS = 2000

export function useEffectDocument(id: string, watcher: Watcher) {
  const state = shallowRef<EffectState | null>(null)
  const effect = shallowRef<Effect | null>(null)
  const saving = ref<Saving>('saved')
  const savedAt = ref<Date | null>(null)
  /** The revision on which the next change is saved. Changes that were made on what another window has overtaken keep to their own. */
  let line = { base: 0 }
  let queue: Promise<void> = Promise.resolve()
  let waiting = 0
  let unsaved = 0
  let refused = false
  /** What was saved, or is about to be; another one in `effect` is a gesture that has not ended. */
  let ended: Effect | null = null
  /** While undo or redo is under way, what is done meanwhile: it is shown at once, and done again on what comes of that. */
  let meanwhile: Meanwhile[] | null = null

  function keep(fresh: EffectState): void {
    state.value = fresh
    line.base = fresh.revision
    refused = false
    savedAt.value = new Date(fresh.changed)
  }

  function adopt(fresh: EffectState): void {
    keep(fresh)
    effect.value = ended = fresh.effect
    watcher.show(fresh.effect)
  }

  /** Whether no gesture has changed anything since the last one ended: what is turned and turned back is nothing. */
  const rests = (): boolean => effect.value === ended || JSON.stringify(effect.value) === JSON.stringify(ended)

  /** What others do is taken over as soon as nothing of one's own is under way. */
  async function follow(): Promise<void> {
    const { base: before } = line
    const still = () => !waiting && !unsaved && !refused && ended !== null && rests() && line.base === before
    if (document.hidden || !still()) return
    try {
      if ((await api.head(id)) === before || !still()) return
      const fresh = await api.effect(id)
      if (!still()) return
      adopt(fresh)
      watcher.say(t('document.changedElsewhere'))
    } catch {
      // Where no server answers, saving says so.
    }
  }
  useIntervalFn(follow, FOLLOW_MS)

  /** The browser asks before the page goes away with what is not saved; one change alone, not too large, is still sent while it goes. */
  function ask(event: BeforeUnloadEvent): void {
    const sent = (unsaved === 0 && rests()) || (unsaved === 1 && effect.value !== null && api.outlives(effect.value))
    if (saving.value === 'waiting' || saving.value === 'refused' || !sent) event.preventDefault()
  }
  window.addEventListener('beforeunload', ask)
  onScopeDispose(() => void queue.finally(() => window.removeEventListener('beforeunload', ask)))

  async function load(): Promise<void> {
    adopt(await api.effect(id))
  }

  /** Show a change; it is saved when `commit` is called at the end of the gesture. */
  function sketch(edit: (draft: Effect) => void): void {
    if (!effect.value) return
    meanwhile?.push({ again: () => sketch(edit), fails: () => undefined })
    const draft = structuredClone(effect.value)
    const { name } = draft
    const by = nameOf(draft.layers)
    edit(draft)
    // As long as nobody has named it, it is called by its layers.
    if (draft.name === name && (name === UNNAMED || name === by) && nameOf(draft.layers) !== by) draft.name = nameOf(draft.layers)
    effect.value = draft
    watcher.show(draft)
  }

  /** Show and save a change. `gesture` is its name in the undo list. What changes nothing is no step of it. */
  function change(gesture: string, edit: (draft: Effect) => void): void {
    sketch(edit)
    commit(gesture)
  }

  /** Turn a control (of a cue or dial with no layer, of a group's drive with the group's id): seen at once, saved when `commit` is called at the end of the gesture. */
  function turn(layerId: string, control: string, value: Plain): void {
    if (!effect.value) return
    const draft = structuredClone(effect.value)
    const layer = draft.layers.find((one) => one.id === layerId)
    // The first curve of a layer is a new program; turning it further is not, nor are numbers.
    const numbers = Array.isArray(value) && value.every((part) => typeof part === 'number')
    if (layer && typeof value === 'object' && !numbers && (layer.values[control] ?? null) === null && !control.includes(':')) {
      sketch((now) => now.layers.forEach((one) => one.id === layerId && assign(one, control, value)))
      return
    }
    if (layer) assign(layer, control, value)
    else if (!assignMotion(draft, layerId, control, value)) return
    meanwhile?.push({ again: () => turn(layerId, control, value), fails: () => undefined })
    effect.value = draft
    watcher.move(layerId, control, value)
    watcher.remember(draft)
  }

  function commit(gesture: string): void {
    if (!effect.value || rests()) return
    const draft = (ended = effect.value)
    unsaved++
    if (!meanwhile) return enqueue(draft, gesture)
    const again = () => {
      unsaved--
      commit(gesture)
    }
    meanwhile.push({ again, fails: () => enqueue(draft, gesture) })
  }

  function enqueue(draft: Effect, gesture: string): void {
    const mine = line
    // The picture comes first: both want the same processor.
    void inOrder(async () => {
      await watcher.seen()
      await store(draft, gesture, mine).finally(() => unsaved--)
    })
  }

  /** What goes to the server goes one after the other. */
  function inOrder(work: () => Promise<void>): Promise<void> {
    saving.value = 'saving'
    waiting++
    // Whatever goes wrong in one of them, the next ones have their turn.
    queue = queue
      .then(work)
      .catch((error: unknown) => {
        refused = true
        watcher.say(t('document.notSavedTheEffectStaysAs', { which: error instanceof Error ? error.message : String(error) }))
      })
      .finally(() => {
        waiting--
        if (!waiting) saving.value = refused ? 'refused' : 'saved'
      })
    return queue
  }

  async function store(draft: Effect, gesture: string, mine: { base: number }): Promise<void> {
    for (let pause = RETRY_MS; ; pause = Math.min(LONGEST_RETRY_MS, pause * 1.5)) {
      try {
        const answer = await api.save(id, mine.base, draft, gesture)
        if (answer.stale) {
          watcher.say(`${t('document.anotherWindowHasChangedThisEffect', { keptas: answer.kept_as })} ${t('document.hereIsTheEffectAsThe')}`)
          // What waits was made on this one, and would undo what the other window did: it is kept beside, after this one.
          mine.base = answer.kept_as
          if (mine === line) {
            line = { base: answer.state.revision }
            adopt(answer.state)
          }
        } else if (mine === line) keep(answer.state)
        saving.value = 'saving'
        return
      } catch (error) {
        // What is seen is never taken away: a server that fails or is away is asked again, one that refuses is not.
        if (!(error instanceof Refusal) || (error.status !== UNREACHABLE && error.status < SERVER_FAILS)) throw error
        if (error.status !== UNREACHABLE && saving.value !== 'waiting') watcher.say(t('document.notSavedYetItIsTried', { message: error.message }))
        saving.value = 'waiting'
        await new Promise((resolve) => setTimeout(resolve, pause))
      }
    }
  }

  function travel(step: (id: string) => Promise<EffectState>): Promise<void> {
    const before = meanwhile
    if (before)
      return new Promise((resolve) => {
        const go = () => void travel(step).finally(resolve)
        before.push({ again: go, fails: go })
      })
    meanwhile = []
    return inOrder(async () => {
      let fresh: EffectState | null = null
      try {
        fresh = await step(id)
      } catch (error) {
        watcher.say(error instanceof Error ? error.message : String(error))
      }
      const after = meanwhile ?? []
      meanwhile = null
      if (fresh) adopt(fresh)
      for (const one of after) goOn(one, fresh !== null)
    })
  }

  /** Do what was done while the server went back or forth; where that goes back or forth again, what follows waits for it in turn. */
  function goOn(one: Meanwhile, went: boolean): void {
    if (meanwhile) meanwhile.push(one)
    else if (went) one.again()
    else one.fails()
  }

  async function settled(): Promise<void> {
    for (let last; last !== queue; await queue) last = queue
  }

  return {
    state,
    effect,
    saving,
    savedAt,
    layers: computed<Layer[]>(() => effect.value?.layers ?? []),
    load,
    sketch,
    change,
    turn,
    commit,
    undo: () => travel(api.undo),
    redo: () => travel(api.redo),
    goBackTo: (revision: number) => travel((effect) => api.goBackTo(effect, revision)),
    settled,
  }
}

export type EffectDocument = ReturnType<typeof useEffectDocument>
