/**
 * Masks of regions drawn from the landmarks of faces: approximate, for a camera gives nothing but its picture. Rings of points in
 * the numbering of the face tracker, each once around.
 */
const OVAL = [
  10, 338, 297, 332, 284, 251, 389, 356, 454, 323, 361, 288, 397, 365, 379, 378, 400, 377, 152, 148, 176, 149, 150, 136, 172, 58, 132, 93, 234,
  127, 162, 21, 54, 103, 67, 109,
]
const LIPS = [61, 146, 91, 181, 84, 17, 314, 405, 321, 375, 291, 409, 270, 269, 267, 0, 37, 39, 40, 185]
const MOUTH = [78, 95, 88, 178, 87, 14, 317, 402, 318, 324, 308, 415, 310, 311, 312, 13, 82, 81, 80, 191]
const EYES = [
  [263, 249, 390, 373, 374, 380, 381, 382, 362, 398, 384, 385, 386, 387, 388, 466],
  [33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246],
] // prettier-ignore

/** What is filled and what is taken out again. */
const REGIONS: Record<string, [number[][], number[][]]> = {
  'region:face skin': [[OVAL], [...EYES, LIPS]],
  'region:eyes': [EYES, []],
  'region:lips': [[LIPS], [MOUTH]],
  'region:teeth': [[MOUTH], []],
}

/** Whether a mask can be had of a real camera: the person's by its tracker, the face's parts by landmarks. */
export const canBeTracked = (name: string): boolean => name === 'person' || name in REGIONS
export const needsFaces = (names: string[]): boolean => names.some((name) => name in REGIONS)

/** White on black, for each of the names that landmarks give. */
export function drawRegions(names: string[], faces: number[][][], width: number, height: number): Map<string, OffscreenCanvas> {
  const made = new Map<string, OffscreenCanvas>()
  for (const name of names) {
    const [filled, cut] = REGIONS[name] ?? [[], []]
    if (!filled.length) continue
    const canvas = new OffscreenCanvas(width, height)
    const context = canvas.getContext('2d')
    if (!context) continue
    context.fillStyle = '#000'
    context.fillRect(0, 0, width, height)
    for (const [rings, colour] of [[filled, '#fff'], [cut, '#000']] as const) {
      context.fillStyle = colour
      for (const face of faces)
        for (const ring of rings) {
          context.beginPath()
          for (const point of ring) context.lineTo((face[point]?.[0] ?? 0) * width, (face[point]?.[1] ?? 0) * height)
          context.fill()
        }
    } // prettier-ignore
    made.set(name, canvas)
  }
  return made
}
