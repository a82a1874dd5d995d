/**
 * The real camera of this device: its picture cut to a screen's shape, mirrored or not, and the masks and faces that the trackers see in
 * it. Picture, masks and points belong together as long as the trackers are quick enough.
 */
// By name, so that an exported page carries these words alone.
import { camera as words } from '../words/en.json'
import { canBeTracked, drawHands, drawRegions, needsFaces, needsHands, needsPerson } from './regions'
import { Tracker, type Answer, type Kind } from './tracker'

const REASONS: Record<string, string> = {
  NotAllowedError: words.notAllowed,
  NotFoundError: words.none,
  NotReadableError: words.taken,
  OverconstrainedError: words.gone,
}
export const hasCamera = (): boolean => 'mediaDevices' in navigator && typeof navigator.mediaDevices.getUserMedia === 'function'

const HOLD_MS = 100
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

export interface Seen {
  picture: OffscreenCanvas
  masks: ReadonlyMap<string, ImageBitmap | OffscreenCanvas>
  faces: number[][][]
}

/** Where points of faces are by now, if they go on as they went between the last two looks. */
export function foretold(last: Omit<Tracked, 'picture'>, before: Omit<Tracked, 'picture'> | null, now: number): number[][][] {
  if (!before || last.at <= before.at) return last.faces
  const ahead = Math.min(now - last.at, AHEAD_MS) / (last.at - before.at)
  const far = (a: number[][], b: number[][]) => Math.hypot((a[NOSE]?.[0] ?? 0) - (b[NOSE]?.[0] ?? 0), (a[NOSE]?.[1] ?? 0) - (b[NOSE]?.[1] ?? 0))
  return last.faces.map((face) => {
    const same = [...before.faces].sort((a, b) => far(a, face) - far(b, face))[0]
    if (!same || far(same, face) > SAME) return face
    return face.map((point, n) => point.map((part, axis) => part + (part - (same[n]?.[axis] ?? part)) * ahead))
  })
}

export class RealCamera {
  readonly canvas = new OffscreenCanvas(2, 2)
  readonly masks = new Map<string, ImageBitmap | OffscreenCanvas>()
  mirrored = true
  trouble = ''
  /** Whether landmarks are shown. */
  wantsFaces = false
  /** The landmarks seen last. */
  faces: number[][][] = []
  private readonly video = document.createElement('video')
  private readonly trackers = new Map<Kind, Tracker>()
  private stopped = false
  private person: ImageBitmap | null = null
  /** Milliseconds that a picture may be held back until the trackers have seen it, and those that they lately took. */
  longest = HOLD_MS
  private late = 0
  private looking = false
  private tracked: Tracked | null = null
  private before: Tracked | null = null
  private readonly spare: OffscreenCanvas[] = []
  /** Whether points of faces are foretold, since the trackers are slow. */
  foretells = false
  private media: MediaStream | null = null

  /** `ended` is told in words when the camera goes away. */
  constructor(private readonly ended: (words: string) => void) {
    this.video.muted = true
    this.video.playsInline = true
  }

  /** Asks for permission, of a device or of the one on a side; what looks at the wearer is mirrored. Throws an Error in plain words where there is no camera to be had. */
  async start(device?: string, side?: 'front' | 'back'): Promise<void> {
    this.stopMedia()
    if (side) this.mirrored = side === 'front'
    if (!hasCamera()) throw new Error(words.needsHttps)
    try {
      const wanted = device ? { deviceId: { exact: device } } : { facingMode: side === 'back' ? 'environment' : 'user' }
      this.media = await navigator.mediaDevices.getUserMedia({ video: { ...wanted, width: { ideal: 1280 }, height: { ideal: 720 } } })
      this.media.getVideoTracks()[0]?.addEventListener('ended', () => this.ended(words.wentAway))
      this.video.srcObject = this.media
      // Whoever asked may have gone while the browser asked for permission.
      if (this.stopped) this.stopMedia()
      else await this.video.play()
    } catch (error) {
      throw new Error(REASONS[error instanceof DOMException ? error.name : ''] ?? words.notStarted)
    }
  }

  static async devices(): Promise<MediaDeviceInfo[]> {
    return hasCamera() ? (await navigator.mediaDevices.enumerateDevices()).filter((one) => one.kind === 'videoinput') : []
  }

  /** The picture as it is now, at this size, in `canvas`; false before the first has come. */
  private draw(width: number, height: number): boolean {
    const { videoWidth, videoHeight } = this.video
    const context = this.canvas.getContext('2d')
    if (this.video.readyState < 2 || !videoWidth || !context) return false
    if (this.canvas.width !== width || this.canvas.height !== height) Object.assign(this.canvas, { width, height })
    const scale = Math.max(width / videoWidth, height / videoHeight)
    const [across, down] = [videoWidth * scale, videoHeight * scale]
    context.setTransform(this.mirrored ? -1 : 1, 0, 0, 1, this.mirrored ? width : 0, 0)
    context.drawImage(this.video, (width - across) / 2, (height - down) / 2, across, down)
    return true
  }

  /**
   * What is to be shown now: a picture, and masks and points of faces that belong to it; none before the first has come. The picture is
   * held back until the trackers have seen it, where they are quick enough; else it is the newest, its points foretold from their speed.
   */
  seen(width: number, height: number, names: string[], faces = false): Seen | null {
    if (!this.draw(width, height)) return null
    const kinds: Kind[] = [...(needsPerson(names) ? (['mask'] as const) : []), ...(faces || this.wantsFaces || needsFaces(names) ? (['face'] as const) : []), ...(needsHands(names) ? (['hand'] as const) : [])]
    this.foretells = false
    if (!kinds.length) return { picture: this.canvas, masks: this.masks, faces: [] }
    if (!this.looking) this.look(kinds, names)
    const { tracked } = this
    if (tracked && this.late <= this.longest) this.faces = tracked.faces
    else if (tracked) {
      this.foretells = kinds.includes('face')
      this.faces = foretold(tracked, this.before, performance.now())
    }
    return { picture: tracked && this.late <= this.longest ? tracked.picture : this.canvas, masks: this.masks, faces: this.faces }
  }

  /** Has the trackers look at the picture in `canvas`. */
  private look(kinds: Kind[], names: string[]): void {
    this.looking = true
    const { width, height } = this.canvas
    const at = performance.now()
    // The picture that is shown stays; the one before it is free again.
    const picture = this.spare.pop() ?? new OffscreenCanvas(width, height)
    Object.assign(picture, { width, height })
    picture.getContext('2d')?.drawImage(this.canvas, 0, 0)
    const ask = async (kind: Kind): Promise<Answer> => {
      const tracker = this.trackers.get(kind) ?? new Tracker(kind)
      this.trackers.set(kind, tracker)
      return tracker.track(await createImageBitmap(picture), at / 1000)
    }
    void Promise.all(kinds.map(ask))
      .then((answers) => {
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
        if (kinds.includes('face')) for (const [name, drawn] of drawRegions(names, faces, width, height, this.person, picture)) this.masks.set(name, drawn)
        if (kinds.includes('hand')) this.masks.set('region:hands', drawHands(answers[kinds.indexOf('hand')]?.hands ?? [], width, height))
        if (this.tracked) this.spare.push(this.tracked.picture)
        this.before = this.tracked
        this.tracked = { picture, faces, at }
        const took = performance.now() - at
        this.late += (took - this.late) * (this.before ? LATELY : 1)
      })
      .finally(() => (this.looking = false))
  }

  /** Lets the device and the trackers go; it is not started again. */
  stop(): void {
    this.stopped = true
    this.stopMedia()
    this.person?.close()
    for (const tracker of this.trackers.values()) tracker.close()
    this.trackers.clear()
    this.masks.clear()
  }

  private stopMedia(): void {
    this.media?.getTracks().forEach((track) => track.stop())
    this.media = null
    this.video.srcObject = null
  }
}

/** Which of a program's masks a real camera does not give, in words; nothing where it gives all. */
export function lacking(names: string[]): string {
  const missing = names.filter((name) => !canBeTracked(name)).map((name) => name.replace('region:', ''))
  return missing.length ? words.standInAlone.replace('{what}', missing.join(', ')) : ''
}
