/**
 * The real camera of this device: its picture cut to a screen's shape, mirrored or not, and the masks that the trackers see in it.
 * Trackers are slower than the picture; a mask belongs to the latest picture that they were done with.
 */
// By name, so that an exported page carries these words alone.
import { camera as words } from '../words/en.json'
import { canBeTracked, drawRegions, needsFaces, needsPerson } from './regions'
import { Tracker } from './tracker'

const REASONS: Record<string, string> = {
  NotAllowedError: words.notAllowed,
  NotFoundError: words.none,
  NotReadableError: words.taken,
  OverconstrainedError: words.gone,
}
export const hasCamera = (): boolean => 'mediaDevices' in navigator && typeof navigator.mediaDevices.getUserMedia === 'function'

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
  private readonly trackers = new Map<'mask' | 'face', Tracker>()
  private stopped = false
  private person: ImageBitmap | null = null
  private readonly asking = new Set<'mask' | 'face'>()
  private media: MediaStream | null = null

  /** `ended` is told in words when the camera goes away. */
  constructor(private readonly ended: (words: string) => void) {
    this.video.muted = true
    this.video.playsInline = true
  }

  /** Asks for permission. Throws an Error in plain words where there is no camera to be had. */
  async start(device?: string): Promise<void> {
    this.stopMedia()
    if (!hasCamera()) throw new Error(words.needsHttps)
    try {
      const wanted = device ? { deviceId: { exact: device } } : { facingMode: 'user' }
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
  draw(width: number, height: number): boolean {
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

  /** Has the trackers look at the picture in `canvas`, those that are free and whose masks, or whose `faces`, are wanted. */
  look(names: string[], faces = false): void {
    if (needsPerson(names)) this.ask('mask', names)
    if (faces || this.wantsFaces || needsFaces(names)) this.ask('face', names)
  }

  private ask(kind: 'mask' | 'face', names: string[]): void {
    const tracker = this.trackers.get(kind) ?? new Tracker(kind)
    this.trackers.set(kind, tracker)
    if (this.asking.has(kind)) return
    this.asking.add(kind)
    const { width, height } = this.canvas
    void createImageBitmap(this.canvas)
      .then((picture) => tracker.track(picture, performance.now() / 1000))
      .then((answer) => {
        this.trouble = answer.trouble ? words.trackerDoesNotRun.replace('{why}', answer.trouble) : ''
        if (this.stopped) return answer.mask?.close()
        if (answer.mask) {
          this.person?.close()
          this.person = answer.mask
          this.masks.set('person', answer.mask)
        }
        if (kind === 'face') this.faces = answer.faces
        if (kind === 'face') for (const [name, mask] of drawRegions(names, answer.faces, width, height, this.person)) this.masks.set(name, mask)
      })
      .finally(() => this.asking.delete(kind))
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
