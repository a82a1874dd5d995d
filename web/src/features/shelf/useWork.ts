/** Long work of the server on material, followed to its end. */
import { api } from '../../api/client'
import type { CutJob } from '../../api/types'

const POLL_MS = 150

/** Gives the work as it ended. Throws in the server's words where it failed. `told` is how far it is. */
export async function followed(job: CutJob, told: (job: CutJob) => void = () => undefined): Promise<CutJob> {
  let now = job
  while (now.state === 'running') {
    told(now)
    await new Promise((resolve) => setTimeout(resolve, POLL_MS))
    now = await api.cutting(now.id)
  }
  if (now.state === 'failed') throw new Error(now.words)
  return now
}
