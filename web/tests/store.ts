/** The server's part of saving in memory, as sunglaze/store/effects.py has it: a head that moves over revisions. It stands in for `fetch`. */
import { vi } from 'vitest'
import type { Effect } from '../src/api/types'
import { state } from './made'

interface Revision {
  effect: Effect
  parent: number | null
  redo: number | null
  gesture: string
}

type Answer = (path: string, body: unknown) => Response | Promise<Response | undefined> | undefined

export class Store {
  readonly revisions = new Map<number, Revision>()
  head = 1
  /** Looked at before the store answers: what it gives, or awaits, is the answer; `undefined` lets the store answer. */
  before: Answer = () => undefined
  /** Requests that were answered, in their order. */
  readonly asked: string[] = []

  constructor(first: Effect) {
    this.revisions.set(1, { effect: structuredClone(first), parent: null, redo: null, gesture: '' })
    vi.stubGlobal('fetch', (path: string, init?: RequestInit) => this.answer(path, init))
  }

  get shown(): Effect {
    return this.revision(this.head).effect
  }

  revision(number: number): Revision {
    const found = this.revisions.get(number)
    if (!found) throw new Error(`there is no revision ${number}`)
    return found
  }

  state(): object {
    const { effect, parent, redo, gesture } = this.revision(this.head)
    return state(this.head, structuredClone(effect), { undo: parent === null ? null : gesture, redo: redo === null ? null : this.revision(redo).gesture })
  }

  /** What another window does. */
  save(base: number, effect: Effect, gesture = 'elsewhere'): { stale: boolean; kept_as: number } {
    const made = this.revisions.size + 1
    this.revisions.set(made, { effect: structuredClone(effect), parent: base, redo: null, gesture })
    const stale = base !== this.head
    if (!stale) {
      this.revision(base).redo = null
      this.head = made
    }
    return { stale, kept_as: made }
  }

  private async answer(path: string, init?: RequestInit): Promise<Response> {
    const body: unknown = typeof init?.body === 'string' ? JSON.parse(init.body) : null
    const given = await this.before(path, body)
    if (given) return given
    this.asked.push(path.split('/').at(-1) ?? '')
    if (path.endsWith('/head')) return Response.json(this.head)
    if (path.endsWith('/revisions')) {
      const { base, effect, gesture } = body as { base: number; effect: Effect; gesture: string }
      const saved = this.save(base, effect, gesture)
      return Response.json({ ...saved, state: this.state() })
    }
    if (path.endsWith('/undo')) {
      const { parent } = this.revision(this.head)
      if (parent !== null) [this.revision(parent).redo, this.head] = [this.head, parent]
    } else if (path.endsWith('/redo')) this.head = this.revision(this.head).redo ?? this.head
    return Response.json(this.state())
  }
}

/** A promise and what keeps it. */
export function held(): { promise: Promise<void>; go: () => void } {
  let go: () => void = () => undefined
  const promise = new Promise<void>((resolve) => (go = resolve))
  return { promise, go }
}
