/** Paintings drawn: closed lines on the flat face, filled with colours or showing the layer's picture. As core/material/painting.py has it. */

export interface Shape {
  /** Places in the face's texture, 0 to 1, v down. */
  points: [number, number][]
  smooth: boolean
  /** `#rrggbb`, or `picture`. */
  fill: string
  opacity: number
  /** How wide the edge is and how far beyond its line a shape goes, pixels of the template. */
  soft: number
  grown: number
  mirrored: boolean
}

export interface Painting {
  shapes: Shape[]
}

export const SIDE = 1024
export const TEMPLATE = 2048
const PICTURE = 'picture'
const ON_AXIS = 1.5
const MOST_PIECES = 96
const PARTS = 5

/** The line through a shape's points, x and y in turns: its points, or of a smooth one straight pieces of the spline through them. */
export function lineOf({ points, smooth }: Pick<Shape, 'points' | 'smooth'>): Float64Array {
  if (!smooth) return Float64Array.from(points.flat())
  const count = points.length
  const pieces = Math.min(8, Math.floor(MOST_PIECES / count))
  const line = new Float64Array(2 * count * pieces)
  const at = (n: number, k: number): number => points[(n + count) % count]?.[k] ?? 0
  for (let n = 0; n < count; n++)
    for (let piece = 0; piece < pieces; piece++) {
      const t = piece / pieces
      const [h00, h10] = [(1 + 2 * t) * (1 - t) ** 2, t * (1 - t) ** 2]
      const [h01, h11] = [t * t * (3 - 2 * t), t * t * (t - 1)]
      for (const k of [0, 1]) {
        const [m0, m1] = [(at(n + 1, k) - at(n - 1, k)) / 2, (at(n + 2, k) - at(n, k)) / 2]
        line[2 * (n * pieces + piece) + k] = h00 * at(n, k) + h10 * m0 + h01 * at(n + 1, k) + h11 * m1
      }
    }
  return line
}

/** Whether a place in texels lies within the mirror picture of a line, or on the axis. */
function withinMirrored(line: Float64Array, x: number, y: number): boolean {
  if (Math.abs(x - SIDE / 2) < ON_AXIS) return true
  const over = SIDE - x
  let winding = 0
  for (let n = 0; n < line.length; n += 2) {
    const [x0, y0] = [line[n] as number, line[n + 1] as number]
    const [x1, y1] = [line[(n + 2) % line.length] as number, line[(n + 3) % line.length] as number]
    if (y0 <= y !== y1 <= y && x0 + ((y - y0) / (y1 - y0)) * (x1 - x0) > over) winding += y1 > y0 ? 1 : -1
  }
  return winding !== 0
}

/** How far each texel's middle lies inside (above 0) or outside a line, up to `most`. */
function distances(line: Float64Array, mirrored: boolean, most: number): Float64Array {
  const far = new Float64Array(SIDE * SIDE).fill(most * most)
  const turns = new Int32Array(SIDE * (SIDE + 1))
  for (let n = 0; n < line.length; n += 2) {
    const [x0, y0] = [line[n] as number, line[n + 1] as number]
    const [x1, y1] = [line[(n + 2) % line.length] as number, line[(n + 3) % line.length] as number]
    const [low, high] = [Math.min(y0, y1), Math.max(y0, y1)]
    for (let row = Math.max(0, Math.ceil(low - 0.5)); row < Math.min(SIDE, Math.ceil(high - 0.5)); row++) {
      const x = x0 + ((row + 0.5 - y0) / (y1 - y0)) * (x1 - x0)
      const place = row * (SIDE + 1) + Math.min(SIDE, Math.max(0, Math.ceil(x - 0.5)))
      turns[place] = (turns[place] as number) + (y1 > y0 ? 1 : -1)
    }
    if (mirrored && withinMirrored(line, (x0 + x1) / 2, (y0 + y1) / 2)) continue
    const [dx, dy] = [x1 - x0, y1 - y0]
    const long = Math.max(dx * dx + dy * dy, 1e-12)
    const [left, right] = [Math.max(0, Math.floor(Math.min(x0, x1) - most)), Math.min(SIDE, Math.ceil(Math.max(x0, x1) + most))]
    for (let row = Math.max(0, Math.floor(low - most)); row < Math.min(SIDE, Math.ceil(high + most)); row++)
      for (let column = left; column < right; column++) {
        const ax = column + 0.5 - x0
        const ay = row + 0.5 - y0
        const t = Math.min(1, Math.max(0, (ax * dx + ay * dy) / long))
        const ox = ax - dx * t
        const oy = ay - dy * t
        const place = row * SIDE + column
        far[place] = Math.min(far[place] as number, ox * ox + oy * oy)
      }
  }
  for (let row = 0; row < SIDE; row++) {
    let winding = 0
    for (let column = 0; column < SIDE; column++) {
      winding += turns[row * (SIDE + 1) + column] as number
      const away = Math.sqrt(far[row * SIDE + column] as number)
      far[row * SIDE + column] = winding ? away : -away
    }
  }
  return far
}

function lay(held: Float64Array, shape: Shape): void {
  const line = lineOf(shape).map((part) => part * SIDE)
  const grown = (shape.grown * SIDE) / TEMPLATE
  const half = Math.max((shape.soft * SIDE) / TEMPLATE / 2, 0.5)
  const far = distances(line, shape.mirrored, grown + half + 2)
  const shows = shape.fill === PICTURE
  const parts = shows ? [0, 0, 0, 0, 1] : [...[1, 3, 5].map((n) => parseInt(shape.fill.slice(n, n + 2), 16) / 255), 1, 0]
  for (let row = 0; row < SIDE; row++)
    for (let column = 0; column < SIDE; column++) {
      let away = far[row * SIDE + column] as number
      if (shape.mirrored) away = Math.max(away, far[row * SIDE + SIDE - 1 - column] as number)
      const share = Math.min(1, Math.max(0, (away + grown + half) / (2 * half)))
      const much = share * share * (3 - 2 * share) * shape.opacity
      if (much <= 0) continue
      const place = PARTS * (row * SIDE + column)
      for (let n = 0; n < PARTS; n++) held[place + n] = (held[place + n] as number) * (1 - much) + much * (parts[n] as number)
    }
}

/** Colours above, how much of the picture shows below: SIDE across, twice SIDE down. */
export function painted({ shapes }: Painting): ImageData {
  const held = new Float64Array(PARTS * SIDE * SIDE)
  if (!shapes.some((shape) => shape.fill === PICTURE)) for (let n = 4; n < held.length; n += PARTS) held[n] = 1
  for (const shape of shapes) lay(held, shape)
  const made = new Uint8ClampedArray(8 * SIDE * SIDE).fill(255)
  const bytes = (part: number): number => Math.floor(part * 255 + 0.5)
  for (let texel = 0; texel < SIDE * SIDE; texel++) {
    const [from, alpha] = [PARTS * texel, held[PARTS * texel + 3] as number]
    for (let n = 0; n < 3; n++) {
      made[4 * texel + n] = bytes((held[from + n] as number) / Math.max(alpha, 1e-9))
      made[4 * (SIDE * SIDE + texel) + n] = bytes(held[from + 4] as number)
    }
    made[4 * texel + 3] = bytes(alpha)
  }
  return new ImageData(made, SIDE, 2 * SIDE)
}
