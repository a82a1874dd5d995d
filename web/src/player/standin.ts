/** The stand-in camera in a browser: the baked loop, frame by frame, fetched ahead of the clock and kept as files. */

interface Facts {
  width: number
  height: number
  rate: number
  frames: number
  who: string
}

const OPTIONS = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' } as const
const name = (place: number) => String(place).padStart(3, '0')

export class StandIn {
  private readonly files = new Map<string, Promise<Blob>>()

  private constructor(readonly facts: Facts) {}

  static async open(): Promise<StandIn> {
    const answer = await fetch('/camera/loop.json')
    if (!answer.ok) throw new Error('The stand-in camera could not be loaded.')
    return new StandIn((await answer.json()) as Facts)
  }

  async frame(number: number): Promise<ImageBitmap> {
    const place = number % this.facts.frames
    for (let ahead = 1; ahead <= 8; ahead++) void this.file(`frames/${name((place + ahead) % this.facts.frames)}.jpg`)
    return createImageBitmap(await this.file(`frames/${name(place)}.jpg`), OPTIONS)
  }

  /** The person mask of a frame: white where the performer is. */
  async mask(number: number): Promise<ImageBitmap> {
    return createImageBitmap(await this.file(`masks/${name(number % this.facts.frames)}.png`), OPTIONS)
  }

  private file(path: string): Promise<Blob> {
    let found = this.files.get(path)
    if (!found) {
      found = fetch(`/camera/${path}`).then((answer) => answer.blob())
      this.files.set(path, found)
    }
    return found
  }
}
