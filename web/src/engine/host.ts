/**
 * What every page round a player shares: the clock, the moments that it makes, the masks that go with a picture, the bare camera,
 * touch, and the size of what is drawn. The workbench, the phone and the exported page are hosts.
 */
import type { Dial } from './dials'
import { quietMoment, RATE, type Face, type Moment } from './moment'
import { Player, type Material, type Program, type Seen } from './player'
import { Rehearsal } from './rehearsal'

/** What programs call the wearer's own photo. */
const PHOTO = 'asset:wearer'
/** After so many milliseconds a picture of a sequence is looked for again. */
const SOON_MS = 40

export class Host {
  /** What was done at which frame, so that it can be played again. */
  rehearsal = new Rehearsal()
  /** Draw the camera without the effect. */
  bare = false
  faces: readonly Face[] = []
  side: 'front' | 'back' = 'front'
  /** A rehearsal to be played in a loop, in place of what is done by hand. */
  rehearsed: Rehearsal | null = null
  /** What the wearer may turn. */
  dials: Dial[] = []
  private player: Player | null = null
  private started = performance.now()
  private stopped: number | null = null
  private hiddenAt: number | null = null
  private drawn: Moment | null = null

  constructor(readonly canvas: HTMLCanvasElement) {
    document.addEventListener('visibilitychange', this.hide)
  }

  /** Time stands still while nobody can see the page. */
  private readonly hide = (): void => {
    if (document.hidden) this.hiddenAt = performance.now()
    else if (this.hiddenAt !== null) {
      this.started += performance.now() - this.hiddenAt
      this.hiddenAt = null
    }
  }

  /** Run this program from now on; the one before goes when the new one is ready. Throws in plain words where it cannot be run. */
  open(program: Program, material: Material): void {
    const fresh = new Player(this.canvas, program, material)
    this.player?.close()
    this.player = fresh
    this.dials = program.dials ?? []
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

  /** What is painted, as a program of the same form has it. */
  paint(pictures: Program['pictures']): void {
    for (const { name, painting } of pictures) if (painting) this.player?.paint(name, painting)
  }

  /** The wearer's own photo, in place of what stood in for it. */
  photo(picture: ImageBitmap): void {
    this.player?.give(PHOTO, picture)
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
    return this.stopped ?? Math.floor((((this.hiddenAt ?? performance.now()) - this.started) / 1000) * this.rate)
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

  /** A finger goes down, moves or leaves, at a place of the screen (0 to 1); how far two have turned and spread things so far. */
  touch(down: boolean, u: number, v: number, two?: { turn: number; scale: number }): void {
    const held = (part: number) => Math.min(1, Math.max(0, part))
    this.rehearsal.record(this.shown + 1, { touch: { down, u: held(u), v: held(v), ...two } })
  }

  /** A cue is given by hand. */
  cue(name: string): void {
    this.rehearsal.record(this.shown + 1, { cues: [name] })
  }

  /** Dials are turned: the moment's numbers, 0 to 1 by name. */
  turn(dials: Record<string, number>): void {
    this.rehearsal.record(this.shown + 1, { dials })
    // A clock that stands shows it all the same.
    if (this.stopped !== null) this.redraw()
  }

  /** The moment of a frame, as it is drawn. */
  moment(frame: number, columns: number, rows: number): Moment {
    const quiet = quietMoment(frame, columns, rows, this.rate)
    return (this.rehearsed ?? this.rehearsal).at({ ...quiet, screen: { columns, rows, side: this.side }, faces: this.faces })
  }

  /**
   * Draw what a camera shows at a frame; without a picture the last one is drawn again, with new masks where they are given. The
   * canvas takes the size.
   */
  draw(frame: number, columns: number, rows: number, seen: Seen = {}): void {
    if (!this.player) return
    if (frame < this.shown && !this.rehearsed) this.rehearsal.rewind(frame)
    const at = (n: number): Moment => this.moment(n, columns, rows)
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
    document.removeEventListener('visibilitychange', this.hide)
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
  fingers(element, place, (down, u, v, two) => host.touch(down, u, v, two), signal)
}

/** Fingers on an element: the first one's place as `place` has it, and how far two have turned (degrees clockwise) and spread things so far. */
export function fingers(
  element: HTMLElement,
  place: (event: PointerEvent) => [number, number],
  told: (down: boolean, u: number, v: number, two: { turn: number; scale: number }) => void,
  signal?: AbortSignal,
): void {
  const down = new Map<number, [number, number]>()
  const two = { turn: 0, scale: 1 }
  let first = -1
  const between = (): [number, number] => {
    const [[ax, ay], [bx, by]] = [...down.values()] as [[number, number], [number, number]]
    return [bx - ax, by - ay]
  }
  const say = (event: PointerEvent, isDown: boolean) => told(isDown, ...place(event), { ...two })
  element.addEventListener(
    'pointerdown',
    (event) => {
      if (event.button !== 0) return
      if (!down.size) first = event.pointerId
      down.set(event.pointerId, [event.clientX, event.clientY])
      if (event.pointerId === first) say(event, true)
    },
    { signal },
  )
  element.addEventListener(
    'pointermove',
    (event) => {
      if (!down.has(event.pointerId)) return
      const before = down.size === 2 ? between() : null
      down.set(event.pointerId, [event.clientX, event.clientY])
      if (before) {
        const now = between()
        const turned = Math.atan2(before[0] * now[1] - before[1] * now[0], before[0] * now[0] + before[1] * now[1])
        two.turn += (turned * 180) / Math.PI
        two.scale *= Math.hypot(...now) / Math.max(1, Math.hypot(...before))
      }
      if (event.pointerId === first) say(event, true)
    },
    { signal },
  )
  for (const end of ['pointerup', 'pointercancel'] as const)
    element.addEventListener(
      end,
      (event) => {
        if (down.delete(event.pointerId) && event.pointerId === first) say(event, false)
      },
      { signal },
    )
}
