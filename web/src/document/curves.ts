/** Drawn curves as the desk shows them: the same monotone cubic as core/colour/curves.py (Fritsch and Butland 1984). */
export type Point = [number, number]

export function monotone(points: Point[]): (x: number) => number {
  const h = points.slice(1).map(([x], n) => x - (points[n]?.[0] ?? 0))
  const d = points.slice(1).map(([, y], n) => (y - (points[n]?.[1] ?? 0)) / (h[n] || 1))
  const m = points.map((_, n) => inner(n))
  function inner(n: number): number {
    if (points.length === 2) return d[0] ?? 0
    if (n === 0) return end(h[0] ?? 1, h[1] ?? 1, d[0] ?? 0, d[1] ?? 0)
    if (n === points.length - 1) return end(h.at(-1) ?? 1, h.at(-2) ?? 1, d.at(-1) ?? 0, d.at(-2) ?? 0)
    const [a, b, p, q] = [d[n - 1] ?? 0, d[n] ?? 0, h[n - 1] ?? 1, h[n] ?? 1]
    if (a * b <= 0) return 0
    const [u, v] = [2 * q + p, q + 2 * p]
    return (u + v) / (u / a + v / b)
  }
  function end(h0: number, h1: number, d0: number, d1: number): number {
    const slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if (slope * d0 <= 0) return 0
    return d0 * d1 <= 0 && Math.abs(slope) > 3 * Math.abs(d0) ? 3 * d0 : slope
  }
  return (x) => {
    const first = points[0] ?? [0, 0]
    const last = points.at(-1) ?? [1, 1]
    if (x <= first[0]) return first[1]
    if (x >= last[0]) return last[1]
    let n = 0
    while (n < points.length - 2 && x > (points[n + 1]?.[0] ?? 1)) n++
    const [p, q] = [points[n] ?? first, points[n + 1] ?? last]
    const w = h[n] || 1
    const t = (x - p[0]) / w
    const s = 1 - t
    const y = p[1] * (1 + 2 * t) * s * s + q[1] * t * t * (3 - 2 * t) + w * t * s * ((m[n] ?? 0) * s - (m[n + 1] ?? 0) * t)
    return Math.min(1, Math.max(0, y))
  }
}

/** A point of a curve round a circle: place, height, and the slope there where it is given. */
export type RoundPoint = [number, number] | [number, number, number]

/** A smooth curve round a circle of this length, or between two ends beyond which it is level (core/colour/hues.py). */
export function smoothly(points: RoundPoint[], length: number, closed: boolean): (x: number) => number {
  const first = points[0]
  if (!first) return () => 0
  if (points.length < 2) return () => first[1]
  const count = points.length
  const at = (n: number): RoundPoint => points[((n % count) + count) % count] ?? first
  const h = points.map((point, n) => (n < count - 1 ? at(n + 1)[0] - point[0] : first[0] + length - point[0]))
  const d = points.map((point, n) => (at(n + 1)[1] - point[1]) / (h[n] || 1))
  const m = points.map((point, n) => {
    if (point[2] !== undefined) return point[2]
    const ends = !closed && (n === 0 || n === count - 1)
    const [h0, h1, d0, d1] = [h[(n + count - 1) % count] ?? 1, h[n] ?? 1, d[(n + count - 1) % count] ?? 0, d[n] ?? 0]
    if (ends || d0 * d1 <= 0) return 0
    const [w0, w1] = [2 * h1 + h0, h1 + 2 * h0]
    return (w0 + w1) / (w0 / d0 + w1 / d1)
  })
  return (x) => {
    if (!closed && x <= first[0]) return first[1]
    if (!closed && x >= at(-1)[0]) return at(-1)[1]
    const into = closed ? (((x - first[0]) % length) + length) % length : x - first[0]
    let n = count - 1
    while (n > 0 && into < at(n)[0] - first[0]) n--
    const [p, q, w] = [at(n), at(n + 1), h[n] || 1]
    const t = (into - (p[0] - first[0])) / w
    const s = 1 - t
    return p[1] * (1 + 2 * t) * s * s + q[1] * t * t * (3 - 2 * t) + w * t * s * ((m[n] ?? 0) * s - (m[(n + 1) % count] ?? 0) * t)
  }
}

/** Hue in degrees, saturation and lightness (0 to 1, HSL) of red, green and blue from 0 to 255. */
export function hsl(red: number, green: number, blue: number): [number, number, number] {
  const [r, g, b] = [red / 255, green / 255, blue / 255]
  const [high, low] = [Math.max(r, g, b), Math.min(r, g, b)]
  const [span, light] = [high - low, (high + low) / 2]
  if (!span) return [0, 0, light]
  const turn = high === r ? ((g - b) / span + 6) % 6 : high === g ? (b - r) / span + 2 : (r - g) / span + 4
  return [turn * 60, span / (1 - Math.abs(2 * light - 1)), light]
}
