/**
 * Pictures of effects as they stand. One that was drawn of an earlier state is shown until the new one is there; those that lack
 * are asked for one after another, as the list is seen.
 */
import { onScopeDispose, reactive } from 'vue'
import { api, Refusal, SERVER_FAILS } from '../../api/client'
import type { ListedEffect } from '../../api/types'

const AGAIN_MS = 1000

export function usePrints() {
  /** Revisions that are drawn, by effect. */
  const drawn = reactive(new Map<string, number>())
  /** Why an effect cannot be drawn, in words. */
  const faults = reactive(new Map<string, string>())
  const leaving = new AbortController()
  let wanted: ListedEffect[] = []
  let working = false
  onScopeDispose(() => leaving.abort())

  const lacks = (one: ListedEffect): boolean => drawn.get(one.id) !== one.revision && !faults.has(one.id)

  /** Draw what lacks of these, the first one first. */
  function see(effects: ListedEffect[]): void {
    for (const one of effects) if (one.printed) drawn.set(one.id, one.revision)
    wanted = effects
    void work()
  }

  async function work(): Promise<void> {
    if (working) return
    working = true
    for (let next = wanted.find(lacks); next && !leaving.signal.aborted; next = wanted.find(lacks)) await draw(next)
    working = false
  }

  async function draw({ id, revision }: ListedEffect): Promise<void> {
    try {
      await api.print(id, revision, leaving.signal)
      drawn.set(id, revision)
    } catch (error) {
      // Too much to do, or a server that is away: it is asked again.
      if (error instanceof Refusal && error.status && error.status < SERVER_FAILS) faults.set(id, error.message)
      else await new Promise((resolve) => setTimeout(resolve, AGAIN_MS))
    }
  }

  /** Where the picture of an effect lies. */
  const address = ({ id }: ListedEffect): string => `/api/effects/${id}/print${drawn.has(id) ? `?revision=${drawn.get(id)}` : ''}`

  return { see, address, faults }
}
