/**
 * What every page round a player shares: the clock, the moments that it makes, the masks that go with a picture, the bare camera,
 * touch, and the size of what is drawn. The workbench, the phone and the exported page are hosts.
 */
import { quietMoment, RATE, type Face, type Moment } from './moment'
import { Player, type Material, type Program, type Seen } from './player'
import { Rehearsal } from './rehearsal'

/** What programs call the wearer's own photo. */
const PHOTO = 'asset:wearer'
/** Pixels of its longer side: what every phone takes. */
const LARGEST_PHOTO = 2048
/** After so many milliseconds a picture of a sequence is looked for again. */
const SOON_MS = 40

export class Host {
  /** What was done at which frame, so that it can be played again. */
  rehearsal = new Rehearsal()
  /** Draw the camera without the effect. */
  bare = false
  faces: readonly Face[] = []
  side: 'front' | 'back' = 'front'
  private player: Player | null = null
  private started = performance.now()
  private stopped: number | null = null
  private drawn: Moment | null = null

  constructor(readonly canvas: HTMLCanvasElement) {}

  /** Run this program from now on; the one before goes when the new one is ready. Throws in plain words where it cannot be run. */
  open(program: Program, material: Material): void {
    const fresh = new Player(this.canvas, program, material)
    this.player?.close()
    this.player = fresh
  }

  get isOpen(): boolean {
    return this.player !== null
  }

  /** What controls stand at, by the names of the program; to be changed in place. */
  get uniforms(): Record<string, number> {
    return this.player?.uniforms ?? {}
  }

  /** The masks that the program reads of a camera: `person`, and `region:NAME`. */
  get masks(): string[] {
    return this.player?.masks ?? []
  }

  /** Whether `faces` must be kept as they are seen. */
  get readsFaces(): boolean {
    return this.player?.readsFaces ?? false
  }

  /** Whether the wearer's own photo is part of the effect. */
  get asksForPhoto(): boolean {
    return this.player?.reads(PHOTO) ?? false
  }

  /** The wearer's own photo, in place of what stood in for it. Throws in plain words where it is no picture. */
  async photo(file: Blob): Promise<void> {
    const whole = await createImageBitmap(file)
    const scale = Math.min(1, LARGEST_PHOTO / Math.max(whole.width, whole.height))
    const size = { resizeWidth: Math.max(1, Math.round(whole.width * scale)), resizeHeight: Math.max(1, Math.round(whole.height * scale)) }
    this.player?.give(PHOTO, await createImageBitmap(whole, { ...size, premultiplyAlpha: 'none' }))
    whole.close()
    this.redraw()
  }

  /** Whether the next draw needs a picture, though its frame was drawn before: the device had gone and is back. */
  get blank(): boolean {
    return this.player?.blank ?? true
  }

  get rate(): number {
    return this.player?.rate ?? RATE
  }

  /** The frame that the clock stands at. */
  get frame(): number {
    return this.stopped ?? Math.floor(((performance.now() - this.started) / 1000) * this.rate)
  }

  get playing(): boolean {
    return this.stopped === null
  }

  /** The frame that was drawn last, none yet being -1. */
  get shown(): number {
    return this.drawn?.clock.frame ?? -1
  }

  /** Hold the clock at what is shown, or let it go on from there. */
  pause(): void {
    if (this.stopped === null) this.stopped = Math.max(0, this.shown)
    else {
      this.started = performance.now() - (this.stopped / this.rate) * 1000
      this.stopped = null
    }
  }

  /** A finger goes down, moves or leaves, at a place of the screen (0 to 1). */
  touch(down: boolean, u: number, v: number): void {
    const held = (part: number) => Math.min(1, Math.max(0, part))
    this.rehearsal.record(this.shown + 1, { touch: { down, u: held(u), v: held(v) } })
  }

  /**
   * Draw what a camera shows at a frame; without a picture the last one is drawn again, with new masks where they are given. The
   * canvas takes the size.
   */
  draw(frame: number, columns: number, rows: number, seen: Seen = {}): void {
    if (!this.player) return
    if (frame < this.shown) this.rehearsal.rewind(frame)
    const at = (n: number): Moment => {
      const quiet = quietMoment(n, columns, rows, this.rate)
      return this.rehearsal.at({ ...quiet, screen: { columns, rows, side: this.side }, faces: this.faces })
    }
    this.drawn = at(frame)
    this.player.bare = this.bare
    this.player.draw(this.drawn, seen, at)
    this.canvas.dataset.frame = String(frame)
    // A clock that stands brings no other frame in which a picture that was not ready would show.
    if (this.player.behind) window.setTimeout(() => this.drawn?.clock.frame === frame && this.redraw(), SOON_MS)
  }

  /** Draw the last frame once more: a control has moved. */
  redraw(masks?: Seen['masks']): void {
    if (this.drawn) this.draw(this.drawn.clock.frame, this.drawn.screen.columns, this.drawn.screen.rows, { masks })
  }

  close(): void {
    this.player?.close()
    this.player = null
  }
}

/** Fingers on a canvas are the host's: where they go down, move and leave, in parts of the picture as it is fitted into its box. */
export function touching(element: HTMLCanvasElement, host: Host, signal?: AbortSignal): void {
  const place = (event: PointerEvent): [number, number] => {
    const box = element.getBoundingClientRect()
    const [across, down] = [box.width / Math.max(1, element.width), box.height / Math.max(1, element.height)]
    const fit = getComputedStyle(element).objectFit
    const scale = fit === 'cover' ? Math.max(across, down) : fit === 'contain' ? Math.min(across, down) : 0
    const [width, height] = scale ? [element.width * scale, element.height * scale] : [box.width, box.height]
    const [left, top] = [box.left + (box.width - width) / 2, box.top + (box.height - height) / 2]
    return [(event.clientX - left) / Math.max(1, width), (event.clientY - top) / Math.max(1, height)]
  }
  element.addEventListener('pointerdown', (event) => event.isPrimary && host.touch(true, ...place(event)), { signal })
  element.addEventListener('pointermove', (event) => event.isPrimary && event.buttons > 0 && host.touch(true, ...place(event)), { signal })
  for (const end of ['pointerup', 'pointercancel'] as const)
    element.addEventListener(end, (event) => event.isPrimary && host.touch(false, ...place(event)), { signal })
}
