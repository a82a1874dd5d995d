/**
 * Asking a tracker, which works in a worker: one picture at a time, so that it never falls behind. Without a graphics processor one
 * starts in many seconds, so those that are through with a picture stay for a while.
 */

export type Kind = 'mask' | 'face' | 'hand'
/** A point of a face or hand: across and down as parts of the picture, and depth in the same scale as across, nearer is less. */
export type Landmark = [number, number, number]

export interface Question {
  kind: Kind
  picture: ImageBitmap
  /** Seconds of the picture; it follows on the one before. None: it is a picture by itself. */
  seconds: number | null
}
export interface Answer {
  mask: ImageBitmap | null
  faces: number[][][]
  /** Of each hand 21 points. */
  hands: number[][][]
  trouble?: string
}

const STAY_MS = 120_000
const idle = new Map<Kind, { tracker: Tracker; leaves: number }>()

/** A tracker that waits for a picture, or one that starts. */
export function takeTracker(kind: Kind): Tracker {
  const found = idle.get(kind)
  if (!found) return new Tracker(kind)
  idle.delete(kind)
  window.clearTimeout(found.leaves)
  return found.tracker
}

/** Give a tracker back, for whoever is next. */
export function leaveTracker(tracker: Tracker): void {
  if (idle.has(tracker.kind)) return tracker.close()
  const leaves = window.setTimeout(() => {
    idle.delete(tracker.kind)
    tracker.close()
  }, STAY_MS)
  idle.set(tracker.kind, { tracker, leaves })
}

/** Start what looks for people, while somebody chooses a picture for it. */
export async function startTrackers(): Promise<void> {
  for (const kind of ['mask', 'face'] as const) {
    if (idle.has(kind)) continue
    const [tracker, nobody] = [new Tracker(kind), await createImageBitmap(new ImageData(360, 640))]
    void tracker.track(nobody, null)
    leaveTracker(tracker)
  }
}

export class Tracker {
  private readonly worker = new Worker(new URL('./tracking.ts', import.meta.url))
  private waiting: ((answer: Answer) => void) | null = null
  private last: Promise<unknown> = Promise.resolve()

  constructor(readonly kind: Kind) {
    this.worker.onmessage = (event: MessageEvent<Answer>) => this.answer(event.data)
    this.worker.onerror = (event) => this.answer({ mask: null, faces: [], hands: [], trouble: event.message })
  }

  /** What it sees in a picture, which is handed over. One at a time, in order. */
  track(picture: ImageBitmap, seconds: number | null): Promise<Answer> {
    const asked = this.last.then(() => this.ask(picture, seconds))
    this.last = asked
    return asked
  }

  private ask(picture: ImageBitmap, seconds: number | null): Promise<Answer> {
    return new Promise((resolve) => {
      this.waiting = resolve
      this.worker.postMessage({ kind: this.kind, picture, seconds } satisfies Question, [picture])
    })
  }

  close(): void {
    this.worker.terminate()
  }

  private answer(answer: Answer): void {
    const waiting = this.waiting
    this.waiting = null
    waiting?.(answer)
  }
}
