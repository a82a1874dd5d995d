/** Publishing, which goes on whatever page is open: how far each effect is, and what came of it. */
import { computed, reactive, ref } from 'vue'
import { api } from '../../api/client'
import type { Package } from '../../api/types'

const LOOK_MS = 400

interface Going {
  share: number
  leave: AbortController
}
const going = reactive(new Map<string, Going>())
/** The effect whose sheet opens by itself, to show what was published. */
export const shownNext = ref<string | null>(null)

/** A page that goes away takes its publishing with it: the browser asks first. */
function ask(event: BeforeUnloadEvent): void {
  event.preventDefault()
}

/**
 * Publish an effect once `ready` is through: what was published, or nothing where it was cancelled or is being published already.
 * Raises what refuses it.
 */
export async function publishEffect(id: string, ready: () => Promise<void> = async () => undefined): Promise<Package | null> {
  if (going.has(id)) return null
  const leave = new AbortController()
  if (!going.size) window.addEventListener('beforeunload', ask)
  going.set(id, { share: 0, leave })
  const look = window.setInterval(async () => {
    const share = await api.publishing(id).then((told) => told.share, () => null)
    const one = going.get(id)
    if (one && share !== null) one.share = share
  }, LOOK_MS)
  try {
    await ready()
    leave.signal.throwIfAborted()
    return await api.publish(id, leave.signal)
  } catch (error) {
    if (leave.signal.aborted) return null
    throw error
  } finally {
    window.clearInterval(look)
    going.delete(id)
    if (!going.size) window.removeEventListener('beforeunload', ask)
  }
}

export function usePublishing(id: string) {
  return {
    /** How much is done, 0 to 1; none where nothing is being published. */
    share: computed(() => going.get(id)?.share ?? null),
    publish: (ready: () => Promise<void>) => publishEffect(id, ready),
    cancel: () => going.get(id)?.leave.abort(),
  }
}
