/**
 * Where hair is, by its colour: the person's picture beside the face is told from skin and clothes by the colours that each has. As
 * sunglaze/core/face/hair.py does it for footage; a hat or scarf that covers the hair is taken for it.
 */
import { blank, fill } from './filling'
import shapes from '../../../sunglaze/core/face/shapes.json'

const SHORT = 128
const SPREAD = 0.03
const SKIN_FAR = 2.25
const FEW = 0.35
const [SHADES, SHADED] = [[0.75, 0.55], -0.45] as const
const [ABOVE, ASIDE, BELOW] = [1.25, 1.15, 1.5]
const RINGS: Record<string, number[]> = shapes.rings
const TOP = 10
const CHIN = 152

type Where = Uint8Array

/** What rings of a face enclose, 1 inside. */
function filled(names: string[], face: number[][], width: number, height: number): Where {
  const mask = blank(width, height)
  for (const name of names) fill(mask, (RINGS[name] ?? []).map((point) => [(face[point]?.[0] ?? 0) * width, (face[point]?.[1] ?? 0) * height]), 1) // prettier-ignore
  return Uint8Array.from(mask.much, (much) => Number(much * 255 + 0.5 >= 128))
}

/** How far each colour is from those of some places, squared deviations, and how wide these spread; nothing where there are too few. `shade`: how bright they are, of what they are. */
function far(pixels: Float64Array, some: Where, fewest: number, shade = 1): Float64Array | null {
  const mean = [0, 0, 0]
  let count = 0
  const part = (n: number, k: number): number => pixels[3 * n + k] ?? 0
  for (let n = 0; n < some.length; n++) if (some[n]) for (let k = ((count += 1), 0); k < 3; k++) mean[k] = (mean[k] ?? 0) + part(n, k)
  if (count < fewest) return null
  for (let k = 0; k < 3; k++) mean[k] = (mean[k] ?? 0) / count
  const spread = new Float64Array(9)
  for (let n = 0; n < some.length; n++)
    if (some[n]) for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) spread[3 * a + b] = (spread[3 * a + b] ?? 0) + (part(n, a) - (mean[a] ?? 0)) * (part(n, b) - (mean[b] ?? 0))
  for (let k = 0; k < 9; k++) spread[k] = ((spread[k] ?? 0) * shade ** 2) / Math.max(1, count - 1) + (k % 4 ? 0 : SPREAD ** 2)
  const at = (row: number, column: number): number => spread[3 * (row % 3) + (column % 3)] ?? 0
  const cofactor = (row: number, column: number): number => at(row + 1, column + 1) * at(row + 2, column + 2) - at(row + 1, column + 2) * at(row + 2, column + 1)
  const whole = at(0, 0) * cofactor(0, 0) + at(0, 1) * cofactor(0, 1) + at(0, 2) * cofactor(0, 2)
  const inverse = Float64Array.from({ length: 9 }, (_, k) => cofactor(Math.floor(k / 3), k % 3) / whole)
  const wide = Math.log(whole / SPREAD ** 6)
  return Float64Array.from({ length: some.length }, (_, n) => {
    const away = [0, 1, 2].map((k) => part(n, k) - (mean[k] ?? 0) * shade)
    let sum = wide
    for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) sum += (away[a] ?? 0) * (inverse[3 * a + b] ?? 0) * (away[b] ?? 0)
    return sum
  })
}

/** What of a mask hangs together with seeds. */
function reached(where: Where, seeds: Where, width: number): Where {
  const found = new Uint8Array(where.length)
  const open: number[] = []
  const visit = (n: number): void => {
    if (n < 0 || n >= where.length || !where[n] || found[n]) return
    found[n] = 1
    open.push(n)
  }
  seeds.forEach((seed, n) => seed && visit(n))
  for (let n = open.pop(); n !== undefined; n = open.pop()) {
    visit(n - width)
    visit(n + width)
    if (n % width) visit(n - 1)
    if ((n + 1) % width) visit(n + 1)
  }
  return found
}

function ofFace(pixels: Float64Array, face: number[][], within: Where, width: number, height: number): Where {
  const [oval, features] = [filled(['oval'], face, width, height), filled(['left eye', 'right eye', 'left brow', 'right brow', 'lips'], face, width, height)]
  const place = (n: number): [number, number] => [(face[n]?.[0] ?? 0) * width, (face[n]?.[1] ?? 0) * height]
  const [top, chin] = [place(TOP), place(CHIN)]
  const size = Math.hypot(chin[0] - top[0], chin[1] - top[1])
  const up = [(top[0] - chin[0]) / Math.max(size, 1e-6), (top[1] - chin[1]) / Math.max(size, 1e-6)] as const
  const middle = [(top[0] + chin[0]) / 2, (top[1] + chin[1]) / 2] as const
  const [about, skin, crown, clothes, low, shaded] = Array.from({ length: 6 }, () => new Uint8Array(within.length)) as [Where, Where, Where, Where, Where, Where]
  let [crowns, found] = [0, 0]
  for (let n = 0; n < within.length; n++) {
    const [x, y] = [(n % width) + 0.5 - middle[0], Math.floor(n / width) + 0.5 - middle[1]]
    const high = (x * up[0] + y * up[1]) / size
    const side = Math.abs(x * up[1] - y * up[0]) / size
    about[n] = Number(within[n] && !oval[n] && high < ABOVE && side < ASIDE && high > -(0.5 + BELOW))
    skin[n] = Number(oval[n] && within[n] && !features[n] && high > 0.16 && side < 0.42)
    crown[n] = Number(about[n] && high > 0.5 && side < 0.75)
    clothes[n] = Number(within[n] && high < -0.95)
    low[n] = Number(high <= 0.1)
    shaded[n] = Number(high < SHADED)
    crowns += crown[n] ?? 0
  }
  const ofSkin = far(pixels, skin, 12)
  if (!ofSkin || crowns < 6) return new Uint8Array(within.length)
  const seeds = crown.map((is, n) => Number(is && (ofSkin[n] ?? 0) > SKIN_FAR ** 2))
  for (const seed of seeds) found += seed
  for (const shade of SHADES) far(pixels, skin, 12, shade)?.forEach((one, n) => (ofSkin[n] = shaded[n] ? Math.min(ofSkin[n] ?? 0, one) : (ofSkin[n] ?? 0)))
  const hairy = found < FEW * crowns ? null : far(pixels, seeds, 1)
  if (!hairy) return new Uint8Array(within.length)
  const clothed = far(pixels, clothes, 13)
  const alike = about.map((is, n) => Number(is && (hairy[n] ?? 0) < (ofSkin[n] ?? 0) && (!clothed || !low[n] || (hairy[n] ?? 0) < (clothed[n] ?? 0))))
  return reached(alike, seeds.map((seed, n) => seed & (alike[n] ?? 0)), width) // prettier-ignore
}

/** The mask of hair, white on black. `faces`: their points as parts of the picture; `person`: white where somebody is. */
export function drawHair(picture: CanvasImageSource, faces: number[][][], width: number, height: number, person: CanvasImageSource): OffscreenCanvas {
  const scale = SHORT / Math.min(width, height)
  const [columns, rows] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))]
  const canvas = new OffscreenCanvas(width, height)
  const [context, small] = [canvas.getContext('2d'), new OffscreenCanvas(columns, rows).getContext('2d', { willReadFrequently: true })]
  if (!context || !small) return canvas
  small.imageSmoothingQuality = 'high'
  const read = (source: CanvasImageSource): Uint8ClampedArray => {
    small.drawImage(source, 0, 0, columns, rows)
    return small.getImageData(0, 0, columns, rows).data
  }
  const colours = read(picture)
  const pixels = Float64Array.from({ length: 3 * columns * rows }, (_, n) => (colours[4 * Math.floor(n / 3) + (n % 3)] ?? 0) / 255)
  const mask = read(person)
  const within = Uint8Array.from({ length: columns * rows }, (_, n) => Number((mask[4 * n] ?? 0) > 127))
  const made = small.createImageData(columns, rows)
  for (let n = 3; n < made.data.length; n += 4) made.data[n] = 255
  for (const face of faces) ofFace(pixels, face, within, columns, rows).forEach((is, n) => is && made.data.fill(255, 4 * n, 4 * n + 3))
  small.putImageData(made, 0, 0)
  context.filter = `blur(${(0.8 / scale).toFixed(2)}px)`
  context.drawImage(small.canvas, 0, 0, width, height)
  context.filter = 'none'
  context.globalCompositeOperation = 'darken'
  context.drawImage(person, 0, 0, width, height)
  return canvas
}
