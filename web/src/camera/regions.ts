/**
 * Masks of regions drawn from the landmarks of faces: approximate, for a camera gives nothing but its picture. What each region is
 * made of stands in sunglaze/core/face/shapes.json, which Python reads for footage that was tracked.
 */
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

/** Whether a mask can be had of a real camera: the person's by its tracker, others by landmarks. */
export const canBeTracked = (name: string): boolean => name === 'person' || REGIONS.has(name)
export const needsFaces = (names: string[]): boolean => names.some((name) => REGIONS.has(name))
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

/** White on black, for each of the names that landmarks give. `person`: white where somebody is, where that is known. */
export function drawRegions(names: string[], faces: number[][][], width: number, height: number, person: CanvasImageSource | null): Map<string, OffscreenCanvas> {
  const made = new Map<string, OffscreenCanvas>()
  for (const name of names) {
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
    made.set(name, canvas)
  }
  return made
}
