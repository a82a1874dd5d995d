/**
 * Masks of regions drawn from the landmarks of faces and hands: approximate, for a camera gives nothing but its picture. What each region is
 * made of stands in sunglaze/core/face/shapes.json, which Python reads for footage that was tracked.
 */
import { blank, fill, shown, type Mask, type Polygon } from './filling'
import { drawHair } from './hair'
import { needsPerson } from './needs'
import shapes from '../../../sunglaze/core/face/shapes.json'

interface Scaled {
  ring: string
  about: number
  by: number
}
interface Region {
  fill: string[]
  cut: string[]
  /** By how much what is filled reaches over its rings, parts of the distance of the outer corners of the eyes. */
  grown?: number
}
const RINGS: Record<string, number[]> = shapes.rings
const SCALED: Record<string, Scaled> = shapes.scaled
const REGIONS = new Map<string, Region>(Object.entries(shapes.regions).map(([name, region]) => [`region:${name}`, region]))

/** The outer corners of the eyes. */
const EYES = [33, 263]
/** Corners of the round end of a line. */
const ROUND = 8
const HAIR = 'region:hair'
const HEAD = 'region:head'
/** Regions whose outline hair has a part in, which is told by its colour. */
const HAIRY = [HAIR, HEAD, 'region:clothes']

/** The rings that a person knows a face by. */
export const FACE_RINGS = Object.values(RINGS)

/** A ring of a face in pixels. */
function ringOf(name: string, face: number[][], { columns, rows }: Mask): Polygon {
  const scaled = SCALED[name]
  const at = (point: number): [number, number] => [(face[point]?.[0] ?? 0) * columns, (face[point]?.[1] ?? 0) * rows]
  const places = (RINGS[scaled ? scaled.ring : name] ?? []).map(at)
  if (!scaled) return places
  const [x, y] = at(scaled.about)
  return places.map(([across, down]) => [x + scaled.by * (across - x), y + scaled.by * (down - y)])
}

/** The outline of a line with round ends, `half` pixels to either side. */
function stroke([x0, y0]: [number, number], [x1, y1]: [number, number], half: number): Polygon {
  const across = Math.atan2(y1 - y0, x1 - x0) + Math.PI / 2
  const turns = Array.from({ length: ROUND + 1 }, (_, n) => across + n * (Math.PI / ROUND))
  const round = (x: number, y: number, way: number): Polygon => turns.map((turn) => [x + way * half * Math.cos(turn), y + way * half * Math.sin(turn)])
  return [...round(x0, y0, 1), ...round(x1, y1, -1)]
}

/** The mask of hands, white on black. `hands`: of each its 21 points. */
export function drawHands(hands: number[][][], width: number, height: number): OffscreenCanvas {
  const mask = blank(width, height)
  const { palm, fingers, across, thick } = shapes.hands
  for (const hand of hands) {
    const at = (n: number): [number, number] => [(hand[n]?.[0] ?? 0) * width, (hand[n]?.[1] ?? 0) * height]
    const [one, other] = across.map(at) as [[number, number], [number, number]]
    const half = Math.max(1, Math.hypot(one[0] - other[0], one[1] - other[1]) * thick) / 2
    fill(mask, palm.map(at), 1)
    for (const line of [[...palm, palm[0] ?? 0], ...fingers]) line.slice(1).forEach((to, n) => fill(mask, stroke(at(line[n] ?? 0), at(to), half), 1))
  }
  return shown(mask)
}

/** White on black, for each of the names that landmarks give. `person`: white where somebody is, where that is known; `picture`: what is seen. */
export function drawRegions(names: string[], faces: number[][][], width: number, height: number, person: CanvasImageSource | null, picture: CanvasImageSource): Map<string, OffscreenCanvas> {
  const made = new Map<string, OffscreenCanvas>()
  let hairy: OffscreenCanvas | null = null
  for (const name of names) {
    const hair = person && HAIRY.includes(name) ? (hairy ??= drawHair(picture, faces, width, height, person)) : null
    const region = REGIONS.get(name)
    if (name === HAIR && hair) made.set(name, hair)
    else if (region) made.set(name, drawn(region, name, faces, blank(width, height), person, hair))
  }
  return made
}

function drawn(region: Region, name: string, faces: number[][][], mask: Mask, person: CanvasImageSource | null, hair: OffscreenCanvas | null): OffscreenCanvas {
  const { columns, rows } = mask
  const lay = (names: string[], value: number, grown = 0): void => {
    for (const name of names) {
      if (name === 'everything') mask.much.fill(value)
      else
        for (const face of faces) {
          const ring = ringOf(name, face, mask)
          fill(mask, ring, value)
          const [one, other] = EYES.map((point) => face[point] ?? []) as [number[], number[]]
          const half = grown * Math.hypot(((one[0] ?? 0) - (other[0] ?? 0)) * columns, ((one[1] ?? 0) - (other[1] ?? 0)) * rows)
          if (half) ring.forEach((from, n) => fill(mask, stroke(from, ring[(n + 1) % ring.length] ?? from, half), value))
        }
    }
  }
  lay(region.fill, 1, region.grown)
  lay(region.cut, 0)
  const canvas = shown(mask)
  const context = canvas.getContext('2d')
  if (!context) return canvas
  if (needsPerson([name]) && person) {
    context.globalCompositeOperation = 'darken'
    context.drawImage(person, 0, 0, columns, rows)
  }
  if (hair) {
    // It belongs to the head, and is no clothes: black where it is white, by taking the lesser of both.
    context.globalCompositeOperation = name === HEAD ? 'lighten' : 'darken'
    if (name !== HEAD) context.filter = 'invert(1)'
    context.drawImage(hair, 0, 0)
  }
  return canvas
}
