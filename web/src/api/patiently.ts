import { Refusal, SERVER_FAILS, UNREACHABLE } from './client'

const AGAIN_MS = 2500
const TIMES = 6

/** Asks a server that is busy again, some times, as long as the answer is `wanted`. Throws what it was refused with. */
export async function patiently<T>(ask: () => Promise<T>, wanted: () => boolean): Promise<T> {
  for (let left = TIMES; ; left--) {
    try {
      return await ask()
    } catch (error) {
      const busy = error instanceof Refusal && (error.status === UNREACHABLE || error.status >= SERVER_FAILS)
      if (!busy || !left || !wanted()) throw error
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS))
    }
  }
}
