/**
 * Fills polygons by exact coverage: what part of each pixel lies inside, as rasterisers of letters find it. sunglaze/core/face/filling.py
 * does the same, in the same order.
 */

/** Places in pixels of a picture, x and y. */
export type Polygon = [number, number][]

/** How much of a mask is there, 0 to 1, row by row. */
export interface Mask {
  much: Float64Array
  columns: number
  rows: number
}

export const blank = (columns: number, rows: number): Mask => ({ much: new Float64Array(columns * rows), columns, rows })

/** Mixes `value` into a mask as far as a polygon covers each of its pixels. */
export function fill({ much: mask, columns, rows }: Mask, polygon: Polygon, value: number): void {
  let [first, last, left, right] = [Infinity, -Infinity, Infinity, -Infinity]
  for (const [x, y] of polygon) [first, last, left, right] = [Math.min(first, y), Math.max(last, y), Math.min(left, x), Math.max(right, x)]
  first = Math.max(0, Math.floor(first))
  last = Math.min(rows, Math.ceil(last))
  left = Math.max(0, Math.floor(left))
  right = Math.min(columns, Math.ceil(right))
  if (!(first < last && left < right)) return
  const wide = right - left
  const areas = new Float64Array((last - first) * (wide + 2))
  const add = (place: number, area: number): void => void (areas[place] = (areas[place] ?? 0) + area)
  polygon.forEach((one, n) => {
    let [[x0, y0], [x1, y1], way] = [one, polygon[(n + 1) % polygon.length] ?? one, 1]
    if (y0 === y1) return
    if (y0 > y1) [x0, y0, x1, y1, way] = [x1, y1, x0, y0, -1]
    x0 -= left
    x1 -= left
    const slope = (x1 - x0) / (y1 - y0)
    for (let row = Math.max(first, Math.floor(y0)); row < Math.min(last, Math.ceil(y1)); row++) {
      const [above, below] = [Math.max(y0, row), Math.min(y1, row + 1)]
      let high = (below - above) * way
      let [a, b] = [x0 + (above - y0) * slope, x0 + (below - y0) * slope]
      if (a > b) [a, b] = [b, a]
      const line = (row - first) * (wide + 2)
      // What lies left of the picture counts in its first column, what lies right of it not at all.
      if (a < 0 || b > wide) {
        const long = b - a
        add(line, b <= 0 ? high : (high * Math.max(0, -a)) / long)
        if (b <= 0 || a >= wide) continue
        ;[a, b] = [Math.max(a, 0), Math.min(b, wide)]
        high *= (b - a) / long
      }
      const [start, end] = [Math.floor(a), Math.ceil(b)]
      if (end <= start + 1) {
        const beyond = (a + b) / 2 - start
        add(line + start, high - high * beyond)
        add(line + start + 1, high * beyond)
        continue
      }
      // Across several pixels: to the left of x lies a parabola's area, and behind the edge a rectangle's.
      let [far, before] = [0, 0]
      for (let column = start; column <= end; column++) {
        const x = column + 1
        const area = x >= b ? high * (x - (a + b) / 2) : (high * (x - a) * (x - a)) / (2 * (b - a))
        add(line + column, area - far - before)
        before = area - far
        far = area
      }
    }
  })
  for (let row = first; row < last; row++) {
    let sum = 0
    for (let column = 0; column < wide; column++) {
      sum += areas[(row - first) * (wide + 2) + column] ?? 0
      const place = row * columns + left + column
      mask[place] = (mask[place] ?? 0) + (value - (mask[place] ?? 0)) * Math.min(1, Math.abs(sum))
    }
  }
}

/** A mask as a picture, white on black. */
export function shown({ much, columns, rows }: Mask): OffscreenCanvas {
  const canvas = new OffscreenCanvas(columns, rows)
  const data = new ImageData(columns, rows)
  const words = new Uint32Array(data.data.buffer)
  for (let n = 0; n < words.length; n++) words[n] = 0xff000000 + 0x010101 * Math.floor((much[n] ?? 0) * 255 + 0.5)
  canvas.getContext('2d')?.putImageData(data, 0, 0)
  return canvas
}
