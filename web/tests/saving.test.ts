// @vitest-environment jsdom
/** When an edit is saved, undone, tried again, kept aside; against a store that follows sunglaze/store/effects.py. */
import { effectScope } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Effect } from '../src/api/types'
import { useEffectDocument, type EffectDocument, type Watcher } from '../src/document/useEffectDocument'
import { effect, layer } from './made'
import { held, Store } from './store'

const SAND = effect([layer('sand', { opacity: 0.5 }), layer('sea', { blend: 'multiply' })])
const FAILS = () => Response.json({ message: 'the disk is full; make room' }, { status: 500 })
const REFUSES = () => Response.json({ message: 'layers.0: it does not fit' }, { status: 422 })

class Seen implements Watcher {
  readonly shown: Effect[] = []
  readonly said: string[] = []
  readonly moved: unknown[] = []
  /** What saving waits for. */
  picture = Promise.resolve()
  show = (one: Effect) => void this.shown.push(one)
  remember = () => undefined
  move = (...what: unknown[]) => void this.moved.push(what)
  say = (words: string) => void this.said.push(words)
  seen = () => this.picture
}

/** Of two windows on one effect: edits, undos, looks, waits. */
const MOVES = import.meta.env.VITE_SLOW ? 10_000 : 1500

/** The same numbers from 0 to 1 for a seed (Park and Miller, 1988). */
function random(seed: number): () => number {
  let state = seed
  return () => (state = (state * 48271) % 2147483647) / 2147483647
}

/** A server that takes its time, now and then. */
const answersLate = (dice: () => number) => async () => {
  if (dice() < 0.5) await new Promise((resolve) => setTimeout(resolve, dice() * 30))
  return undefined
}

let scope = effectScope()
let store: Store
let watcher: Seen
let doc: EffectDocument
let letGo: () => void = () => undefined

/** Pictures of changes come only when `letGo` is called. */
function holdPictures(): void {
  const { promise, go } = held()
  watcher.picture = promise
  letGo = go
}

/** Undo waits on its way until the function that comes back is called. */
function holdUndo(): () => void {
  const { promise, go } = held()
  store.before = async (path) => {
    if (path.endsWith('/undo')) await promise
    return undefined
  }
  return go
}

const blend = (): string | undefined => doc.layers.value[1]?.blend
const set = (mode: string) => doc.change(`blend ${mode}`, (draft) => draft.layers.forEach((one) => one.id === 'sea' && (one.blend = mode as never)))

beforeEach(async () => {
  vi.useFakeTimers()
  scope = effectScope()
  store = new Store(SAND)
  watcher = new Seen()
  doc = scope.run(() => useEffectDocument('e', watcher)) as EffectDocument
  await doc.load()
})

afterEach(async () => {
  // A page that still has to save listens for its end: it must not answer for the next test's.
  scope.stop()
  letGo()
  store.before = () => undefined
  await vi.advanceTimersByTimeAsync(12_000)
  await doc.settled()
  vi.useRealTimers()
})

/** Whether the browser would ask before the page goes away. */
function asks(): boolean {
  const going = new Event('beforeunload', { cancelable: true })
  window.dispatchEvent(going)
  return going.defaultPrevented
}

async function settled(): Promise<void> {
  await vi.advanceTimersByTimeAsync(0)
  await doc.settled()
}

describe('an edit', () => {
  it('is shown at once and saved when its picture has come', async () => {
    holdPictures()
    set('screen')
    expect(watcher.shown.at(-1)?.layers[1]?.blend).toBe('screen')
    expect(doc.saving.value).toBe('saving')
    await vi.advanceTimersByTimeAsync(100)
    expect(store.asked).not.toContain('revisions')
    letGo()
    await settled()
    expect(store.shown.layers[1]?.blend).toBe('screen')
    expect(doc.saving.value).toBe('saved')
  })

  it('is saved after those before it, each on the one before', async () => {
    for (const mode of ['screen', 'overlay', 'darken', 'lighten']) set(mode)
    await settled()
    expect(store.shown.layers[1]?.blend).toBe('lighten')
    expect(store.revisions.size).toBe(5)
    for (const mode of ['darken', 'overlay', 'screen', 'multiply']) {
      await doc.undo()
      expect(blend()).toBe(mode)
    }
  })

  it('that is turned is one step, at the end of the gesture', async () => {
    for (const opacity of [0.6, 0.7, 0.8]) doc.turn('sand', 'layer:opacity', opacity)
    await vi.advanceTimersByTimeAsync(500)
    expect(store.revisions.size).toBe(1)
    expect(watcher.moved).toEqual([0.6, 0.7, 0.8].map((opacity) => ['sand', 'layer:opacity', opacity]))
    doc.commit('opacity')
    await settled()
    expect(store.shown.layers[0]?.opacity).toBe(0.8)
    expect(store.revisions.size).toBe(2)
  })

  it('that comes to nothing is no step, and is not waited for', async () => {
    for (const opacity of [0.6, 0.5]) doc.turn('sand', 'layer:opacity', opacity)
    doc.commit('opacity')
    doc.change('opacity', (draft) => draft.layers.forEach((one) => one.id === 'sand' && (one.opacity = 0.5)))
    await settled()
    expect(store.revisions.size).toBe(1)
    expect(asks()).toBe(false)
    store.save(1, effect([layer('sand', { opacity: 0.7 })]))
    await vi.advanceTimersByTimeAsync(2100)
    expect(doc.layers.value[0]?.opacity).toBe(0.7)
  })

  it('that is the first curve of a layer is a new program, the next ones are moves', () => {
    doc.turn('sand', 'curves', { all: [[0, 0], [1, 1]] } as never) // prettier-ignore
    expect(watcher.moved).toEqual([])
    doc.turn('sand', 'curves', { all: [[0, 0.1], [1, 1]] } as never) // prettier-ignore
    expect(watcher.moved).toHaveLength(1)
  })

  it('names an effect by its layers until somebody names it', async () => {
    store.revision(1).effect.name = 'sand and sea'
    await doc.load()
    doc.change('remove', (draft) => void draft.layers.pop())
    expect(doc.effect.value?.name).toBe('sand')
    doc.change('rename', (draft) => (draft.name = 'Porthole'))
    doc.change('add', (draft) => void draft.layers.push(layer('sky')))
    expect(doc.effect.value?.name).toBe('Porthole')
  })
})

describe('undo', () => {
  it('asked for twice at once goes back twice, however slow the first is', async () => {
    set('screen')
    set('overlay')
    await settled()
    const { promise, go } = held()
    let first = true
    store.before = async (path) => {
      if (path.endsWith('/undo') && first) {
        first = false
        await promise
      }
      return undefined
    }
    void doc.undo()
    void doc.undo()
    await vi.advanceTimersByTimeAsync(50)
    go()
    await settled()
    expect(blend()).toBe('multiply')
    expect(store.shown.layers[1]?.blend).toBe('multiply')
  })

  it('leaves a change that was made while it was under way', async () => {
    set('screen')
    await settled()
    const go = holdUndo()
    void doc.undo()
    await vi.advanceTimersByTimeAsync(0)
    set('overlay')
    go()
    await settled()
    expect(blend()).toBe('overlay')
    expect(store.shown.layers[1]?.blend).toBe('overlay')
    await doc.undo()
    expect(blend()).toBe('multiply')
  })

  it('is not done again by an edit that follows at once, which is made of what comes', async () => {
    set('screen')
    await settled()
    const go = holdUndo()
    void doc.undo()
    doc.change('opacity', (draft) => draft.layers.forEach((one) => (one.opacity = 0.4)))
    doc.turn('sand', 'layer:opacity', 0.25)
    doc.commit('opacity of sand')
    expect(doc.layers.value.map((one) => one.opacity)).toEqual([0.25, 0.4])
    go()
    await settled()
    expect(store.shown.layers.map((one) => [one.opacity, one.blend])).toEqual([
      [0.25, 'normal'],
      [0.4, 'multiply'],
    ])
    expect(doc.effect.value).toEqual(store.shown)
  })

  it('edit, undo, edit, undo at once come to what they come to slowly', async () => {
    void doc.undo()
    set('screen')
    set('overlay')
    void doc.undo()
    set('darken')
    void doc.undo()
    await settled()
    expect(blend()).toBe('screen')
    expect(store.shown.layers[1]?.blend).toBe('screen')
  })

  it('that fails leaves what is done meanwhile', async () => {
    store.before = (path) => (path.endsWith('/undo') ? FAILS() : undefined)
    void doc.undo()
    set('overlay')
    await settled()
    expect(store.shown.layers[1]?.blend).toBe('overlay')
    expect(watcher.said).toHaveLength(1)
  })

  it('goes forth again by redo', async () => {
    set('screen')
    await settled()
    await doc.undo()
    expect(doc.state.value?.redo).toBe('blend screen')
    await doc.redo()
    expect(blend()).toBe('screen')
  })
})

describe('a server that fails', () => {
  it('is tried again, and takes no edit away', async () => {
    let failing = 2
    store.before = (path) => (path.endsWith('/revisions') && failing-- > 0 ? FAILS() : undefined)
    doc.change('opacity', (draft) => draft.layers.forEach((one) => (one.opacity = 0.4)))
    await vi.advanceTimersByTimeAsync(10)
    expect(doc.saving.value).toBe('waiting')
    expect(watcher.said.join()).toContain('the disk is full; make room')
    expect(doc.layers.value[0]?.opacity).toBe(0.4)
    await vi.advanceTimersByTimeAsync(1500)
    expect(doc.saving.value).toBe('waiting')
    await vi.advanceTimersByTimeAsync(2250)
    await settled()
    expect(doc.saving.value).toBe('saved')
    expect(store.shown.layers[0]?.opacity).toBe(0.4)
  })

  it('that is away is waited for without a word', async () => {
    let away = true
    store.before = (path) => {
      if (path.endsWith('/revisions') && away) throw new TypeError('fetch failed')
      return undefined
    }
    set('screen')
    await vi.advanceTimersByTimeAsync(4000)
    expect(doc.saving.value).toBe('waiting')
    expect(watcher.said).toEqual([])
    away = false
    await vi.advanceTimersByTimeAsync(12_000)
    await settled()
    expect(store.shown.layers[1]?.blend).toBe('screen')
  })

  it('that refuses leaves the change in sight, and the next one saves all', async () => {
    let refusals = 1
    store.before = (path) => (path.endsWith('/revisions') && refusals-- > 0 ? REFUSES() : undefined)
    doc.change('opacity', (draft) => draft.layers.forEach((one) => (one.opacity = 0.4)))
    await settled()
    expect(doc.saving.value).toBe('refused')
    expect(watcher.said.join()).toContain('it does not fit')
    expect(doc.layers.value[0]?.opacity).toBe(0.4)
    set('screen')
    await settled()
    expect(doc.saving.value).toBe('saved')
    expect(store.shown.layers.map((one) => [one.opacity, one.blend])).toEqual([
      [0.4, 'normal'],
      [0.4, 'screen'],
    ])
  })
})

describe('another window', () => {
  const theirs = effect([layer('sand', { opacity: 0.7 })])

  it('that saved is taken over by one that rests', async () => {
    store.save(1, theirs)
    await vi.advanceTimersByTimeAsync(2100)
    expect(doc.layers.value[0]?.opacity).toBe(0.7)
    expect(watcher.said).toHaveLength(1)
  })

  it('is not taken over in the middle of a gesture, and what that makes is kept beside', async () => {
    doc.turn('sand', 'layer:opacity', 0.3)
    store.save(1, theirs)
    await vi.advanceTimersByTimeAsync(6000)
    expect(doc.layers.value[0]?.opacity).toBe(0.3)
    doc.commit('opacity')
    await settled()
    expect(watcher.said.join()).toContain('revision 3')
    expect(doc.layers.value[0]?.opacity).toBe(0.7)
    expect(store.revision(3).effect.layers[0]?.opacity).toBe(0.3)
  })

  it('that saved first keeps what it saved: all that waited here is kept beside', async () => {
    holdPictures()
    doc.change('opacity', (draft) => draft.layers.forEach((one) => (one.opacity = 0.3)))
    set('screen')
    store.save(1, theirs)
    letGo()
    await settled()
    expect(store.shown).toEqual(theirs)
    expect(doc.effect.value).toEqual(theirs)
    expect(store.revision(4).effect.layers[1]?.blend).toBe('screen')
    expect(store.revision(4).parent).toBe(3)
    set('overlay')
    await settled()
    expect(store.shown.layers).toHaveLength(theirs.layers.length)
  })

  it('and this one lose nothing, whatever the order in which both move', async () => {
    // Every change adds a layer of its own name: a revision has all of its parent's, and one more.
    const names = (one: Effect) => one.layers.map((each) => each.id)
    const add = (id: string) => (draft: Effect) => void draft.layers.push(layer(id))
    const dice = random(7)
    let made = 0
    let theirHead = 1
    const ours = new Set<string>()
    for (let move = 0; move < MOVES; move++) {
      const roll = dice()
      if (roll < 0.4) {
        const id = `ours${made++}`
        doc.change(id, add(id))
        ours.add(id)
      } else if (roll < 0.55) {
        // They look, or save on what they saw last.
        if (dice() < 0.5) theirHead = store.head
        else {
          const effect = structuredClone(store.revision(theirHead).effect)
          add(`theirs${made++}`)(effect)
          const { stale, kept_as } = store.save(theirHead, effect)
          theirHead = stale ? store.head : kept_as
        }
      } else if (roll < 0.7) void doc.undo()
      else if (roll < 0.75) void doc.redo()
      else await vi.advanceTimersByTimeAsync(dice() < 0.02 ? 2500 : Math.floor(dice() * 5))
      if (move % 50 === 0) store.before = answersLate(dice)
      if (move % 50 === 49) {
        for (let tries = 0; tries < 100 && doc.saving.value !== 'saved'; tries++) await vi.advanceTimersByTimeAsync(1000)
        await vi.advanceTimersByTimeAsync(3000)
        expect(doc.saving.value).toBe('saved')
        expect(doc.effect.value).toEqual(store.shown)
        // So that no effect grows without end.
        store.save(store.head, effect([layer('sand')]), 'begin anew')
        await vi.advanceTimersByTimeAsync(3000)
      }
    }
    for (const { effect: one, parent, gesture } of store.revisions.values()) {
      if (parent === null || gesture === 'begin anew') continue
      const before = new Set(names(store.revision(parent).effect))
      const more = names(one).filter((id) => !before.has(id))
      expect(names(one)).toHaveLength(before.size + 1)
      expect(more).toHaveLength(1)
      ours.delete(more[0] ?? '')
    }
    expect([...ours]).toEqual([])
  }, 60_000)

  it('is not asked after while nobody can see the page', async () => {
    vi.spyOn(document, 'hidden', 'get').mockReturnValue(true)
    store.save(1, theirs)
    await vi.advanceTimersByTimeAsync(6000)
    expect(store.asked).not.toContain('head')
  })
})

describe('a page that goes away', () => {
  it('goes at once when all is saved', () => expect(asks()).toBe(false))

  it('asks about a gesture that has not ended', () => {
    doc.turn('sand', 'layer:opacity', 0.3)
    expect(asks()).toBe(true)
    doc.turn('sand', 'layer:opacity', 0.5)
    expect(asks()).toBe(false)
  })

  it('goes with one change that is sent with it, and asks about two', () => {
    holdPictures()
    set('screen')
    expect(asks()).toBe(false)
    set('overlay')
    expect(asks()).toBe(true)
  })

  it('asks about a change that is too large to be sent with it', () => {
    holdPictures()
    doc.change('comment', (draft) => draft.layers.forEach((one) => (one.values.words = 'x'.repeat(40_000))))
    expect(asks()).toBe(true)
  })

  it('asks while the server is away, and after it refused', async () => {
    store.before = (path) => (path.endsWith('/revisions') ? REFUSES() : undefined)
    set('screen')
    await settled()
    expect(asks()).toBe(true)
    store.before = (path) => {
      if (path.endsWith('/revisions')) throw new TypeError('fetch failed')
      return undefined
    }
    set('overlay')
    await vi.advanceTimersByTimeAsync(10)
    expect(asks()).toBe(true)
  })
})
