/** The stand-in camera in a browser: frames of a sitting, fetched ahead of the clock and kept as files. */

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
}

const OPTIONS = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' } as const
const AHEAD = 8

export class StandIn {
  private readonly files = new Map<string, Promise<Blob>>()

  private constructor(
    readonly facts: Facts,
    private readonly query: string,
  ) {}

  /** With the sitting and for the screen (as 9:16) that are asked for, else as by default. */
  static async open(sitting?: Sitting, screen = '9:16'): Promise<StandIn> {
    const query = sitting ? `?${new URLSearchParams({ ...sitting, back: String(sitting.back), screen }).toString()}` : ''
    const answer = await fetch(`/api/cast/facts${query}`)
    if (!answer.ok) throw new Error('The stand-in camera could not be loaded.')
    return new StandIn((await answer.json()) as Facts, query)
  }

  async frame(number: number): Promise<ImageBitmap> {
    const place = number % this.facts.frames
    for (let ahead = 1; ahead <= AHEAD; ahead++) void this.file(`frames/${(place + ahead) % this.facts.frames}.jpg`)
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

  private file(path: string): Promise<Blob> {
    let found = this.files.get(path)
    if (!found) {
      found = fetch(`/api/cast/${path}${this.query}`).then((answer) => answer.blob())
      this.files.set(path, found)
    }
    return found
  }
}
