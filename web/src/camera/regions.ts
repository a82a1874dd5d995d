/**
 * Masks of regions drawn from the landmarks of faces and hands: approximate, for a camera gives nothing but its picture. What each region is
 * made of stands in sunglaze/core/face/shapes.json, which Python reads for footage that was tracked.
 */
import { drawHair } from './hair'
import shapes from '../../../sunglaze/core/face/shapes.json'

interface Scaled {
  ring: string
  about: number
  by: number
}
interface Region {
  fill: string[]
  cut: string[]
  person: boolean
}
const RINGS: Record<string, number[]> = shapes.rings
const SCALED: Record<string, Scaled> = shapes.scaled
const REGIONS = new Map<string, Region>(Object.entries(shapes.regions).map(([name, region]) => [`region:${name}`, region]))

const HANDS = 'region:hands'
const HAIR = 'region:hair'
const HEAD = 'region:head'
/** Regions whose outline hair has a part in, which is told by its colour. */
const HAIRY = [HAIR, HEAD, 'region:clothes']

/** Whether a mask can be had of a real camera: the person's by its tracker, others by landmarks. */
export const canBeTracked = (name: string): boolean => name === 'person' || name === HANDS || REGIONS.has(name)
export const needsFaces = (names: string[]): boolean => names.some((name) => REGIONS.has(name))
export const needsHands = (names: string[]): boolean => names.includes(HANDS)
export const needsPerson = (names: string[]): boolean => names.some((name) => name === 'person' || REGIONS.get(name)?.person)
/** The rings that a person knows a face by. */
export const FACE_RINGS = Object.values(RINGS)

function ringOf(name: string, face: number[][]): [number, number][] {
  const scaled = SCALED[name]
  const ring = RINGS[scaled ? scaled.ring : name] ?? []
  const places = ring.map((point): [number, number] => [face[point]?.[0] ?? 0, face[point]?.[1] ?? 0])
  if (!scaled) return places
  const [x = 0, y = 0] = face[scaled.about] ?? []
  return places.map(([across, down]) => [x + scaled.by * (across - x), y + scaled.by * (down - y)])
}

/** The mask of hands, white on black. `hands`: of each its 21 points. */
export function drawHands(hands: number[][][], width: number, height: number): OffscreenCanvas {
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')
  if (!context) return canvas
  context.fillRect(0, 0, width, height)
  context.fillStyle = context.strokeStyle = '#fff'
  context.lineCap = context.lineJoin = 'round'
  const { palm, fingers, across, thick } = shapes.hands
  for (const hand of hands) {
    const at = (n: number): [number, number] => [(hand[n]?.[0] ?? 0) * width, (hand[n]?.[1] ?? 0) * height]
    const [one, other] = across.map(at) as [[number, number], [number, number]]
    context.lineWidth = Math.max(1, Math.round(Math.hypot(one[0] - other[0], one[1] - other[1]) * thick))
    for (const line of [palm, ...fingers]) {
      context.beginPath()
      for (const n of line) context.lineTo(...at(n))
      if (line === palm) {
        context.closePath()
        context.fill()
      }
      context.stroke()
    }
  }
  return canvas
}

/** White on black, for each of the names that landmarks give. `person`: white where somebody is, where that is known; `picture`: what is seen. */
export function drawRegions(names: string[], faces: number[][][], width: number, height: number, person: CanvasImageSource | null, picture: CanvasImageSource): Map<string, OffscreenCanvas> {
  const made = new Map<string, OffscreenCanvas>()
  let hairy: OffscreenCanvas | null = null
  for (const name of names) {
    const hair = person && HAIRY.includes(name) ? (hairy ??= drawHair(picture, faces, width, height, person)) : null
    if (name === HAIR && hair) {
      made.set(name, hair)
      continue
    }
    const region = REGIONS.get(name)
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d')
    if (!region || !context) continue
    const fill = (rings: string[], colour: string): void => {
      context.fillStyle = colour
      for (const ring of rings) {
        if (ring === 'everything') context.fillRect(0, 0, width, height)
        else
          for (const face of faces) {
            context.beginPath()
            for (const [across, down] of ringOf(ring, face)) context.lineTo(across * width, down * height)
            context.fill()
          }
      }
    }
    context.fillStyle = '#000'
    context.fillRect(0, 0, width, height)
    fill(region.fill, '#fff')
    fill(region.cut, '#000')
    if (region.person && person) {
      context.globalCompositeOperation = 'multiply'
      context.drawImage(person, 0, 0, width, height)
    }
    if (hair) {
      // It belongs to the head, and is no clothes: black where it is white, by taking the lesser of both.
      context.globalCompositeOperation = name === HEAD ? 'lighten' : 'darken'
      if (name !== HEAD) context.filter = 'invert(1)'
      context.drawImage(hair, 0, 0)
    }
    made.set(name, canvas)
  }
  return made
}
