/**
 * Sequences on a device. Of each, one picture is a texture and one more is decoded, the next: never all at once. Files are kept as
 * they come, packed. And which smaller copies textures are, which hangs on what sequences show.
 */
import { Copies, type CopyPass } from './copies'
import type { Surfaces } from './surfaces'

export interface Film {
  /** Which picture is shown at a tick. */
  numberAt(tick: number): number
  /** These are shown now or next: they are made ready, all others are let go. */
  want(numbers: number[]): void
  /** A picture, where it is ready. */
  show(number: number): TexImageSource | null
  /** Whether a picture was tried last without success; it is tried again where it is wanted. */
  failed(number: number): boolean
  close(): void
}

const OPTIONS = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' } as const

/** For how many ticks each of `count` pictures is shown; the first and the last stand for those before and behind. */
function numberAt(count: number, holds: number[], tick: number): number {
  let number = tick
  if (holds.length) {
    let end = 0
    number = holds.findIndex((hold) => tick < (end += hold))
    if (number < 0) number = count - 1
  }
  return Math.min(Math.max(number, 0), count - 1)
}

/** Pictures that are there already. */
export class Loaded implements Film {
  constructor(
    private readonly pictures: TexImageSource[],
    private readonly holds: number[] = [],
  ) {}

  numberAt(tick: number): number {
    return numberAt(this.pictures.length, this.holds, tick)
  }

  show(number: number): TexImageSource | null {
    return this.pictures[number] ?? null
  }

  failed(): boolean {
    return false
  }

  want(): void {}
  close(): void {}
}

/** Pictures as files, fetched once each and decoded ahead of need. */
export class Packed implements Film {
  private readonly files: (Promise<Blob> | undefined)[] = []
  private readonly ready = new Map<number, ImageBitmap>()
  private readonly asked = new Set<number>()
  private readonly missed = new Set<number>()
  private wanted: number[] = []
  private closed = false

  constructor(
    private readonly addresses: string[],
    private readonly holds: number[] = [],
    private readonly get: (address: string) => Promise<Blob> = fetched,
  ) {}

  /** Fetch all files, so that nothing waits for a network later. Throws in plain words. */
  async load(): Promise<void> {
    await Promise.all(this.addresses.map((_, number) => this.file(number)))
  }

  numberAt(tick: number): number {
    return numberAt(this.addresses.length, this.holds, tick)
  }

  show(number: number): TexImageSource | null {
    return this.ready.get(number) ?? null
  }

  failed(number: number): boolean {
    return this.missed.has(number)
  }

  want(numbers: number[]): void {
    this.wanted = numbers
    for (const [number, picture] of this.ready) {
      if (numbers.includes(number)) continue
      picture.close()
      this.ready.delete(number)
    }
    for (const number of numbers) if (!this.ready.has(number) && !this.asked.has(number)) void this.decode(number)
  }

  private async decode(number: number): Promise<void> {
    this.asked.add(number)
    try {
      const picture = await createImageBitmap(await this.file(number), OPTIONS)
      if (this.closed || !this.wanted.includes(number)) picture.close()
      else this.ready.set(number, picture)
      this.missed.delete(number)
    } catch {
      // What cannot be had now leaves the last picture, and is asked for again.
      this.files[number] = undefined
      this.missed.add(number)
    } finally {
      this.asked.delete(number)
    }
  }

  private file(number: number): Promise<Blob> {
    return (this.files[number] ??= this.get(this.addresses[number] ?? ''))
  }

  close(): void {
    this.closed = true
    for (const picture of this.ready.values()) picture.close()
    this.ready.clear()
  }
}

async function fetched(address: string): Promise<Blob> {
  const answer = await fetch(address)
  if (!answer.ok) throw new Error(`${address} could not be loaded.`)
  return answer.blob()
}

/** A texture that shows one picture of a sequence in a frame: the one at the tick that the signal at `shows` has; `soon` has the next. */
export interface Upload {
  name: string
  sequence: string
  shows: number
  soon?: number
}

/** The textures of a program that show sequences, and those that are smaller copies of others. */
export class Films {
  /** A picture was not ready when the last frame was drawn. */
  behind = false
  private readonly uploaded = new Map<string, number>()
  /** Which picture a texture waits for, by the texture's name. */
  private readonly sought = new Map<string, number>()

  private readonly copies: Copies

  constructor(
    private readonly uploads: Upload[],
    copies: CopyPass[],
    private readonly films: ReadonlyMap<string, Film>,
  ) {
    this.copies = new Copies(copies)
  }

  /** Textures take the pictures that are due, and those that come next are made ready. */
  show(numbers: number[], surfaces: Surfaces): void {
    const wanted = new Map<Film, number[]>()
    this.behind = false
    for (const { name, sequence, shows, soon } of this.uploads) {
      const film = this.films.get(sequence)
      if (!film) continue
      const number = film.numberAt(numbers[shows] ?? 0)
      const due = this.uploaded.get(name) !== number
      // The texture keeps what it shows until the picture that is due is ready. On a device that decodes slower than pictures are due,
      // the one that was waited for is shown late: a loop that is behind goes on, it does not stand.
      const late = this.sought.get(name) ?? number
      for (const ready of due ? new Set([number, late]) : []) {
        const now = film.show(ready)
        if (!now) continue
        surfaces.upload(name, now)
        this.uploaded.set(name, ready)
        break
      }
      const shown = this.uploaded.get(name)
      if (shown === number) this.sought.delete(name)
      else {
        this.behind = true
        this.sought.set(name, shown === late || film.failed(late) ? number : late)
      }
      const next = soon === undefined ? number : film.numberAt(numbers[soon] ?? 0)
      wanted.set(film, [...(wanted.get(film) ?? []), ...(this.sought.has(name) ? [this.sought.get(name) as number] : []), next])
    }
    for (const [film, some] of wanted) film.want(some)
    this.copies.show(surfaces, numbers)
  }

  /** The device has lost its textures. */
  forget(): void {
    this.uploaded.clear()
    this.sought.clear()
    this.copies.forget()
  }

  close(): void {
    this.copies.close()
    for (const film of this.films.values()) film.close()
  }
}
