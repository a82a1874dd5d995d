/**
 * The real camera of this device: its picture cut to a screen's shape, mirrored or not, and the masks and faces that the trackers see in
 * it. Picture, masks and points belong together as long as the trackers are quick enough.
 */
// By name, so that an exported page carries these words alone.
import { camera as words } from '../words/en.json'
import type { Looking } from './looking'
import { canBeTracked, needsFaces, needsHands, needsPerson } from './needs'
import type { Kind } from './tracker'

const REASONS: Record<string, string> = {
  NotAllowedError: words.notAllowed,
  NotFoundError: words.none,
  NotReadableError: words.taken,
  OverconstrainedError: words.gone,
}
export const hasCamera = (): boolean => 'mediaDevices' in navigator && typeof navigator.mediaDevices.getUserMedia === 'function'

const HOLD_MS = 100
/** A page has one camera: the one that was asked for last. */
let running: RealCamera | null = null
const NOTHING: ReadonlyMap<string, OffscreenCanvas> = new Map()

export interface Seen {
  picture: OffscreenCanvas
  masks: ReadonlyMap<string, ImageBitmap | OffscreenCanvas>
  faces: number[][][]
}

export class RealCamera {
  readonly canvas = new OffscreenCanvas(2, 2)
  mirrored = true
  /** Whether landmarks are shown. */
  wantsFaces = false
  /** The landmarks seen last. */
  faces: number[][][] = []
  private readonly video = document.createElement('video')
  private stopped = false
  /** Milliseconds that a picture may be held back until the trackers have seen it. */
  longest = HOLD_MS
  private looking: Looking | null = null
  private fetched: Promise<void> | null = null
  private notFetched = ''
  private media: MediaStream | null = null

  /** `ended` is told in words when the camera goes away. */
  constructor(private readonly ended: (words: string) => void) {
    this.video.muted = true
    this.video.playsInline = true
  }

  /**
   * Asks for permission, of a device or of the one on a side; what looks at the wearer is mirrored. False where it was stopped meanwhile,
   * as it is where the page asks for another. Throws an Error in plain words where there is no camera to be had.
   */
  async start(device?: string, side?: 'front' | 'back'): Promise<boolean> {
    takeOver(this)
    this.stopMedia()
    if (side) this.mirrored = side === 'front'
    if (!hasCamera()) throw new Error(words.needsHttps)
    try {
      const wanted = device ? { deviceId: { exact: device } } : { facingMode: side === 'back' ? 'environment' : 'user' }
      this.media = await navigator.mediaDevices.getUserMedia({ video: { ...wanted, width: { ideal: 1280 }, height: { ideal: 720 } } })
      this.media.getVideoTracks()[0]?.addEventListener('ended', () => this.ended(words.wentAway))
      this.video.srcObject = this.media
      if (!this.stopped) await this.video.play()
    } catch (error) {
      this.stopMedia()
      if (!this.stopped) throw new Error(REASONS[error instanceof DOMException ? error.name : ''] ?? words.notStarted)
    }
    // Whoever asked may have gone while the browser asked for permission.
    if (this.stopped) this.stopMedia()
    return !this.stopped
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
    const wanted: Record<Kind, boolean> = { mask: needsPerson(names), face: faces || this.wantsFaces || needsFaces(names), hand: needsHands(names) }
    const kinds = (Object.keys(wanted) as Kind[]).filter((kind) => wanted[kind])
    // Pages whose effect looks for nobody never fetch the trackers.
    if (kinds.length && !this.looking) this.fetched ??= this.fetch()
    const found = (kinds.length && this.looking?.seen(this.canvas, kinds, names, this.longest)) || { picture: this.canvas, masks: NOTHING, faces: [] }
    this.faces = found.faces
    return found
  }

  private async fetch(): Promise<void> {
    try {
      const { Looking } = await import('./looking')
      if (!this.stopped) this.looking = new Looking()
    } catch (error) {
      this.notFetched = words.trackerDoesNotRun.replace('{why}', String(error))
    }
  }

  /** What keeps the trackers from running, in words. */
  get trouble(): string {
    return this.looking?.trouble ?? this.notFetched
  }

  /** Whether points of faces are foretold, since the trackers are slow. */
  get foretells(): boolean {
    return this.looking?.foretells ?? false
  }

  /** Lets the device and the trackers go; it is not started again. */
  stop(): void {
    this.stopped = true
    this.stopMedia()
    this.looking?.close()
  }

  private stopMedia(): void {
    this.media?.getTracks().forEach((track) => track.stop())
    this.media = null
    this.video.srcObject = null
  }
}

function takeOver(one: RealCamera): void {
  if (running !== one) stopCamera()
  running = one
}

/** Let the page's camera go, whether it has started or not. */
export const stopCamera = (): void => running?.stop()

/** Which of a program's masks a real camera does not give, in words; nothing where it gives all. */
export function lacking(names: string[]): string {
  const missing = names.filter((name) => !canBeTracked(name)).map((name) => name.replace('region:', ''))
  return missing.length ? words.standInAlone.replace('{what}', missing.join(', ')) : ''
}
