/** Trackers at work on a camera's pictures, beside it: what they saw belongs to the picture that they saw it in. */
import { camera as words } from '../words/en.json'
import { HANDS, needsFaces, needsHands } from './needs'
import { Tracker, type Answer, type Kind } from './tracker'
import type { Seen } from './camera'

/** How much the last time counts that trackers took. */
const LATELY = 0.3
/** Milliseconds for which points are foretold at most. */
const AHEAD_MS = 250
/** Parts of the picture that a face's nose may move between two looks and be the same face's. */
const SAME = 0.2
const NOSE = 4

/** A picture that trackers have seen, and when it was taken (milliseconds). */
interface Tracked {
  picture: OffscreenCanvas
  faces: number[][][]
  at: number
}

/** Where points of faces are by now, if they go on as they went between the last two looks. */
function foretold(last: Tracked, before: Tracked | null, now: number): number[][][] {
  if (!before || last.at <= before.at) return last.faces
  const ahead = Math.min(now - last.at, AHEAD_MS) / (last.at - before.at)
  const far = (a: number[][], b: number[][]) => Math.hypot((a[NOSE]?.[0] ?? 0) - (b[NOSE]?.[0] ?? 0), (a[NOSE]?.[1] ?? 0) - (b[NOSE]?.[1] ?? 0))
  return last.faces.map((face) => {
    const same = [...before.faces].sort((a, b) => far(a, face) - far(b, face))[0]
    if (!same || far(same, face) > SAME) return face
    return face.map((point, n) => point.map((part, axis) => part + (part - (same[n]?.[axis] ?? part)) * ahead))
  })
}

export class Looking {
  trouble = ''
  /** Whether points of faces are foretold, since the trackers are slow. */
  foretells = false
  private readonly masks = new Map<string, ImageBitmap | OffscreenCanvas>()
  private readonly trackers = new Map<Kind, Tracker>()
  private readonly spare: OffscreenCanvas[] = []
  private person: ImageBitmap | null = null
  private tracked: Tracked | null = null
  private before: Tracked | null = null
  private busy = false
  private stopped = false
  /** Milliseconds that trackers lately took. */
  private late = 0

  /** What is to be shown for the newest picture, which these trackers look at if they are free. It is held back until they have seen it, where that takes no longer than `longest` milliseconds; else it is shown at once, its points foretold. */
  seen(newest: OffscreenCanvas, kinds: Kind[], names: string[], longest: number): Seen {
    if (!this.busy) {
      this.busy = true
      void this.look(newest, kinds, names)
        .catch((error: unknown) => (this.trouble = words.trackerDoesNotRun.replace('{why}', String(error))))
        .finally(() => (this.busy = false))
    }
    const { tracked, masks } = this
    const quick = tracked && this.late <= longest
    this.foretells = Boolean(tracked) && !quick && kinds.includes('face')
    if (!tracked) return { picture: newest, masks, faces: [] }
    return quick ? { ...tracked, masks } : { picture: newest, masks, faces: foretold(tracked, this.before, performance.now()) }
  }

  private async look(newest: OffscreenCanvas, kinds: Kind[], names: string[]): Promise<void> {
    const { width, height } = newest
    const at = performance.now()
    // The picture that is shown stays; the one before it is free again.
    const picture = this.spare.pop() ?? new OffscreenCanvas(width, height)
    Object.assign(picture, { width, height })
    picture.getContext('2d')?.drawImage(newest, 0, 0)
    // Pages whose effect reads no such regions never fetch what draws them.
    const regions = needsFaces(names) || needsHands(names) ? await import('./regions') : null
    const ask = async (kind: Kind): Promise<Answer> => {
      const tracker = this.trackers.get(kind) ?? new Tracker(kind)
      this.trackers.set(kind, tracker)
      return tracker.track(await createImageBitmap(picture), at / 1000)
    }
    const answers = this.stopped ? [] : await Promise.all(kinds.map(ask))
    const trouble = answers.find((answer) => answer.trouble)?.trouble
    this.trouble = trouble ? words.trackerDoesNotRun.replace('{why}', trouble) : ''
    const mask = answers[kinds.indexOf('mask')]?.mask
    if (this.stopped) return mask?.close()
    if (mask) {
      this.person?.close()
      this.person = mask
      this.masks.set('person', mask)
    }
    const faces = answers[kinds.indexOf('face')]?.faces ?? []
    if (kinds.includes('face')) for (const [name, drawn] of regions?.drawRegions(names, faces, width, height, this.person, picture) ?? []) this.masks.set(name, drawn)
    if (regions && kinds.includes('hand')) this.masks.set(HANDS, regions.drawHands(answers[kinds.indexOf('hand')]?.hands ?? [], width, height))
    if (this.tracked) this.spare.push(this.tracked.picture)
    this.before = this.tracked
    this.tracked = { picture, faces, at }
    this.late += (performance.now() - at - this.late) * (this.before ? LATELY : 1)
  }

  close(): void {
    this.stopped = true
    this.person?.close()
    for (const tracker of this.trackers.values()) tracker.close()
    this.trackers.clear()
    this.masks.clear()
  }
}
