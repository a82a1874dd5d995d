/** Asking a tracker, which works in a worker: one picture at a time, so that it never falls behind. */

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

export class Tracker {
  private readonly worker = new Worker(new URL('./tracking.ts', import.meta.url))
  private waiting: ((answer: Answer) => void) | null = null

  constructor(private readonly kind: Kind) {
    this.worker.onmessage = (event: MessageEvent<Answer>) => this.answer(event.data)
    this.worker.onerror = (event) => this.answer({ mask: null, faces: [], hands: [], trouble: event.message })
  }

  /** What it sees in a picture, which is handed over. One at a time. */
  track(picture: ImageBitmap, seconds: number | null): Promise<Answer> {
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
