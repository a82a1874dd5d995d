/** The server's cameras in a browser: frames of a sitting or of own footage, fetched ahead of the clock and kept as files. */

import { cast as words } from '../words/en.json'
import { readMoment, type Moment, type PlainMoment } from '../engine/moment'

interface Facts {
  width: number
  height: number
  rate: number
  frames: number
}

/** Who is before the camera, doing what, in which light; `back`: by the camera on the other side. */
export interface Sitting {
  who: string
  script: string
  light: string
  back: boolean
  /** Faces are told as a phone tracks them: late, shaking, now and then lost. */
  tracked: boolean
}

const OPTIONS = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' } as const
const AHEAD = 8
/** A loop of the cast with a mask or two. */
const MOST_FILES = 1200

export class StandIn {
  private readonly files = new Map<string, Promise<Blob>>()

  private constructor(
    readonly facts: Facts,
    private readonly query: string,
  ) {}

  /** With the sitting and for the screen (as 9:16) that are asked for, else as by default; `own`: the artist's footage in its place. */
  static async open(sitting?: Sitting, screen = '9:16', own: string | null = null): Promise<StandIn> {
    const asked: Record<string, string> | undefined = own ? { own, screen } : sitting && { ...sitting, back: String(sitting.back), tracked: String(sitting.tracked), screen }
    const query = asked ? `?${new URLSearchParams(asked).toString()}` : ''
    const answer = await fetch(`/api/camera/facts${query}`)
    if (!answer.ok) throw new Error(words.standInNotLoaded)
    return new StandIn((await answer.json()) as Facts, query)
  }

  async frame(number: number): Promise<ImageBitmap> {
    const place = number % this.facts.frames
    for (let ahead = 1; ahead <= AHEAD; ahead++) this.file(`frames/${(place + ahead) % this.facts.frames}.jpg`).catch(() => undefined)
    return createImageBitmap(await this.file(`frames/${place}.jpg`), OPTIONS)
  }

  /** Masks of a frame, white inside, by the names that a player asks for; of the size of the picture that they go with. */
  async masks(number: number, names: string[], width = this.facts.width, height = this.facts.height): Promise<Map<string, ImageBitmap>> {
    const options = { ...OPTIONS, resizeWidth: width, resizeHeight: height }
    const made = names.map(async (name): Promise<[string, ImageBitmap]> => {
      const region = encodeURIComponent(name.replace('region:', ''))
      return [name, await createImageBitmap(await this.file(`masks/${region}/${number % this.facts.frames}.png`), options)]
    })
    return new Map(await Promise.all(made))
  }

  /** The moment of a frame, its picture and masks apart. */
  async moment(number: number): Promise<Moment> {
    return readMoment(JSON.parse(await (await this.file(`moments/${number % this.facts.frames}`)).text()) as PlainMoment)
  }

  private file(path: string): Promise<Blob> {
    let found = this.files.get(path)
    if (!found) {
      found = this.fetched(path)
      this.files.set(path, found)
      // What failed is asked for again the next time; of the rest, the oldest goes.
      found.catch(() => this.files.delete(path))
      for (const old of this.files.keys()) {
        if (this.files.size <= MOST_FILES) break
        this.files.delete(old)
      }
    }
    return found
  }

  private async fetched(path: string): Promise<Blob> {
    const answer = await fetch(`/api/camera/${path}${this.query}`)
    if (!answer.ok) throw new Error(words.pictureNotLoaded)
    return answer.blob()
  }
}
