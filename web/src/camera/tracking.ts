/**
 * One tracker in a worker of its own: the person's mask, or the landmarks of faces or hands. The models and their runtime are those
 * of the packages @mediapipe/selfie_segmentation, face_mesh and hands, which ship with the page. They expect a page around them;
 * what they touch of it is stood in for here.
 */
import type { Answer, Kind, Question } from './tracker'

type Landmarks = { x: number; y: number; z: number }[]
interface Results {
  segmentationMask: CanvasImageSource & { width: number; height: number }
  multiFaceLandmarks?: Landmarks[]
  multiHandLandmarks?: Landmarks[]
}
interface Solution {
  onResults(taken: (results: Results) => void): void
  setOptions(options: Record<string, number | boolean>): void
  send(input: { image: ImageBitmap }): Promise<void>
}
type Maker = new (options: { locateFile(file: string): string }) => Solution
type Scope = Record<string, unknown> & { importScripts(...addresses: string[]): void; location: Location }

const scope = self as unknown as Scope
const LONGEST_SIDE = 640

function pretendPage(): void {
  const run = (element: Record<string, unknown>): void => {
    scope.importScripts(String(element.src))
    for (const loaded of element.loaded as (() => void)[]) loaded()
  }
  const nothing = () => undefined
  scope.window = scope
  for (const name of ['HTMLVideoElement', 'HTMLImageElement']) scope[name] = class { readonly isAbsent = true }
  scope.HTMLCanvasElement = OffscreenCanvas
  scope.document = {
    createElement(name: string) {
      if (name === 'canvas') return new OffscreenCanvas(1, 1)
      const loaded: (() => void)[] = []
      const element: Record<string, unknown> = { loaded }
      element.setAttribute = (attribute: string, value: string) => (element[attribute] = value)
      element.addEventListener = (type: string, act: () => void) => type === 'load' && loaded.push(act)
      return element
    },
    body: { appendChild: run },
    head: { appendChild: run },
    addEventListener: nothing,
    removeEventListener: nothing,
    querySelector: () => null,
    getElementById: () => null,
  }
}

/** Seconds with which small changes of the mask are followed, and the change that is followed at once; sunglaze/core/face/steady.py. */
const MASK_LAG = 0.2
const MASK_MOVED = 0.6
let before: { mask: Float32Array; seconds: number } | null = null

/** What is seen of the person now, held steady against flicker. */
function steadied(seen: Float32Array, seconds: number | null): Float32Array {
  const last = before?.mask.length === seen.length ? before : null
  // What is not later is of another clip.
  if (seconds !== null && last && seconds > last.seconds) {
    const slow = 1 - Math.exp(-(seconds - last.seconds) / MASK_LAG)
    for (let n = 0; n < seen.length; n++) {
      const was = last.mask[n] ?? 0
      const change = (seen[n] ?? 0) - was
      const swift = Math.min(Math.abs(change) / (255 * MASK_MOVED), 1)
      seen[n] = was + change * (slow + (1 - slow) * swift)
    }
  }
  before = seconds === null ? null : { mask: seen, seconds }
  return seen
}

/** White where the person is, opaque, pixel for pixel of the picture. */
async function opaque(mask: Results['segmentationMask'], width: number, height: number, seconds: number | null): Promise<ImageBitmap> {
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d', { willReadFrequently: true })
  if (!context) throw new Error('no canvas')
  context.drawImage(mask, 0, 0, width, height)
  const pixels = context.getImageData(0, 0, width, height)
  const steady = steadied(Float32Array.from({ length: width * height }, (_, n) => pixels.data[4 * n + 3] ?? 0), seconds)
  for (let n = 0; n < steady.length; n++) {
    pixels.data.fill(Math.round(steady[n] ?? 0), 4 * n, 4 * n + 3)
    pixels.data[4 * n + 3] = 255
  }
  return createImageBitmap(pixels)
}

function emptyPicture({ resizeWidth, resizeHeight }: { resizeWidth: number; resizeHeight: number }): Promise<ImageBitmap> {
  return createImageBitmap(new ImageData(resizeWidth, resizeHeight))
}

let solution: Solution | null = null
let results: Results | null = null
/** Seconds of the picture before. */
let latest: number | null = null

/** The package of each tracker, what makes it, and how it is set. */
const TRACKERS: Record<Kind, [folder: string, maker: string, options: Record<string, number | boolean>]> = {
  mask: ['selfie_segmentation', 'SelfieSegmentation', { modelSelection: 0 }],
  face: ['face_mesh', 'FaceMesh', { maxNumFaces: 2, refineLandmarks: true }],
  hand: ['hands', 'Hands', { maxNumHands: 4, modelComplexity: 1 }],
}
const places = (all: Landmarks[] | undefined): number[][][] => (all ?? []).map((one) => one.map(({ x, y, z }) => [x, y, z]))

function start(kind: Kind): Solution {
  pretendPage()
  const [name, maker, options] = TRACKERS[kind]
  // They lie beside the folder of this script, wherever the page is served from.
  const folder = new URL(`../trackers/${name}`, scope.location.href).href
  scope.importScripts(`${folder}/${name}.js`)
  const made = new (scope[maker] as Maker)({ locateFile: (file) => `${folder}/${file}` })
  made.onResults((found) => (results = found))
  made.setOptions(options)
  return made
}

/** Have a picture looked at, and let it go. */
async function sent(to: Solution, image: ImageBitmap): Promise<void> {
  try {
    await to.send({ image })
  } finally {
    image.close()
  }
}

self.onmessage = async (event: MessageEvent<Question>) => {
  const { kind, picture, seconds } = event.data
  try {
    solution ??= start(kind)
    const { width, height } = picture
    const scale = Math.min(1, LONGEST_SIDE / Math.max(width, height))
    const size = { resizeWidth: Math.round(width * scale), resizeHeight: Math.round(height * scale) }
    // A picture that is no next frame: a face is not looked for where the last one was. An empty picture in between forgets it
    // in a moment; starting the model's graph anew takes seconds without a graphics processor.
    const follows = seconds !== null && latest !== null && seconds > latest
    latest = seconds
    if (!follows && results && kind !== 'mask') await sent(solution, await emptyPicture(size))
    await sent(solution, await createImageBitmap(picture, size))
    const answer: Answer = { mask: null, faces: [], hands: [] }
    const found = results as Results | null
    if (kind === 'mask' && found) answer.mask = await opaque(found.segmentationMask, width, height, seconds)
    else [answer.faces, answer.hands] = [places(found?.multiFaceLandmarks), places(found?.multiHandLandmarks)]
    self.postMessage(answer, { transfer: answer.mask ? [answer.mask] : [] })
  } catch (error) {
    self.postMessage({ mask: null, faces: [], hands: [], trouble: error instanceof Error ? error.message : String(error) } satisfies Answer)
  } finally {
    picture.close()
  }
}
