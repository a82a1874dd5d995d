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
