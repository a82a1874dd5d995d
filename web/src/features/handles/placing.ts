/**
 * Where what is placed lies on the screen, from what its controls stand at (core/nodes/handles.py says what the parts mean). Lengths
 * and places are in short sides of the screen here, from its upper left corner, so that round things are round.
 */
import type { Handle, Plain } from '../../api/types'

export type Point = [number, number]

/** What a box hangs on: a place, and the ways that a unit goes to the right and down there. */
export interface Frame {
  at: Point
  right: Point
  down: Point
}

/** What is placed, measured. What a kind does not have stands at nothing. */
export interface Placed {
  handle: Handle
  centre: Point
  /** Half of its width and height. */
  half: Point
  /** Of a picture or text, as its control has it. */
  size: number
  /** Degrees clockwise, with those of the side that is kept. */
  turn: number
  /** Of these, what the side makes. */
  base: number
  inner: number
  outer: number
  /** From where a ramp starts to where it ends; 0 of a border. */
  length: number
  /** Both ends of a line, the corners of a quad, or the points of a path. */
  points: Point[]
  smooth: boolean
  frame: Frame | null
}

/** Turns of the sides of a border (core/nodes/shapes.py). */
const SIDES: Record<string, number> = { top: 0, right: 90, bottom: 180, left: -90 }

/** The screen in short sides: one of the two is 1. */
export function groundOf(width: number, height: number): Point {
  const short = Math.min(width, height)
  return [width / short, height / short]
}

export const add = (a: Point, b: Point): Point => [a[0] + b[0], a[1] + b[1]]
export const minus = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1]]
export const times = (a: Point, by: number): Point => [a[0] * by, a[1] * by]
export const long = (a: Point): number => Math.hypot(a[0], a[1])

/** Turned clockwise, as v runs down. */
export function turned([x, y]: Point, degrees: number): Point {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
  return [x * c - y * s, x * s + y * c]
}

/** The direction of a line, and the one across it, to which a ramp runs. */
export const along = (placed: Placed): Point => turned([1, 0], placed.turn)
export const across = (placed: Placed): Point => turned([0, 1], placed.turn)

/** How large a picture lies on the screen, in short sides (core/nodes/coordinates.py: fitted). */
export function fitted(picture: Point, ground: Point, how: string): Point {
  const [shape, screen] = [picture[0] / picture[1], ground[0] / ground[1]]
  if (how === 'stretch') return ground
  if (how === 'short') return times(fitted(picture, ground, 'contain'), 1 / ground[0])
  if (how === 'tile') return [picture[0] / 720, picture[1] / 720]
  const byWidth: Point = [ground[0], ground[0] / shape]
  const byHeight: Point = [ground[1] * shape, ground[1]]
  return shape > screen === (how === 'contain') ? byWidth : byHeight
}

const pair = (plain: Plain | undefined, otherwise: Point): Point =>
  Array.isArray(plain) && plain.length === 2 ? [Number(plain[0]), Number(plain[1])] : otherwise

/** Measures what is placed. `read`: what a control stands at; `picture`: pixels of what a box has the shape of, once they are known; `frame`: what it hangs on. */
export function placing(handle: Handle, read: (control: string) => Plain | undefined, ground: Point, picture: Point | null, frame: Frame | null = null): Placed | null {
  const part = (name: string): Plain | undefined => (handle.moves[name] === undefined ? undefined : read(handle.moves[name]))
  const number = (name: string, otherwise: number): number => (part(name) === undefined ? otherwise : Number(part(name)))
  const on = (place: Point): Point => [place[0] * ground[0], place[1] * ground[1]]
  const at = on(add(pair(part('at'), handle.moves.at === undefined ? [0.5, 0.5] : [0, 0]), handle.origin as Point))
  const base = handle.side ? (SIDES[String(read(handle.side))] ?? 0) : 0
  const made: Placed = {
    handle, centre: at, half: [0, 0], size: number('size', 1), turn: number('turn', 0) + base, base, inner: 0, outer: 0, length: number('length', 0), points: [], smooth: false, frame,
  } // prettier-ignore
  if (handle.anchor) {
    if (!frame || !picture) return null
    made.base = (Math.atan2(frame.right[1], frame.right[0]) * 180) / Math.PI
    made.turn = number('turn', 0) + made.base
    made.centre = add(frame.at, minus(times(frame.right, number('right', 0)), times(frame.down, number('up', 0))))
    made.half = [(long(frame.right) * made.size) / 2, (long(frame.down) * made.size * picture[1]) / picture[0] / 2]
    return made
  }
  if (handle.kind === 'box') {
    if (handle.shape && !picture) return null
    if (picture && handle.shape) {
      const how = handle.shape.fit_by ? String(read(handle.shape.fit_by)) : handle.shape.fit
      made.half = times(fitted(picture, ground, how), made.size / 2)
    } else if (handle.moves.count !== undefined) made.half = times([1, 1], 0.5 / Math.max(number('count', 1), 0.01))
    else made.half = [number('width', 0.2) / 2, number('height', 0.2) / 2]
    if (handle.corner) made.centre = add(at, made.half)
  } else if (handle.kind === 'circle') {
    const radius = number('radius', 0.2)
    made.half = [number('width', radius * 2) / 2, number('height', radius * 2) / 2]
  } else if (handle.kind === 'ring') {
    const [radius, thick] = [number('radius', 0), number('thickness', 0)]
    made.inner = number('inner', radius - thick / 2)
    made.outer = number('outer', radius + thick / 2)
  } else if (handle.kind === 'line' && handle.moves.start !== undefined) {
    made.points = [on(pair(part('start'), [0, 0])), on(pair(part('end'), [1, 1]))]
    made.centre = middle(made.points)
  } else if (handle.kind === 'quad') {
    made.points = ['first', 'second', 'third', 'fourth'].map((name) => on(pair(part(name), [0.5, 0.5])))
    made.centre = middle(made.points)
  } else if (handle.kind === 'path') {
    const path = part('path') as { points?: number[][]; smooth?: boolean } | null | undefined
    if (!path?.points) return null
    made.points = path.points.map((point): Point => add([point[0] ?? 0, point[1] ?? 0], times(ground, 0.5)))
    made.smooth = path.smooth ?? true
    made.centre = middle(made.points)
  }
  return made
}

export function middle(points: Point[]): Point {
  return times(points.reduce(add, [0, 0]), 1 / Math.max(1, points.length))
}

/** Whether a place lies in a box, an ellipse, or what points enclose. */
export function within(placed: Placed, place: Point): boolean {
  if (placed.points.length > 2) return isInside(outline(placed), place)
  const [x, y] = turned(minus(place, placed.centre), -placed.turn)
  const [w, h] = placed.half
  return placed.handle.kind === 'circle' ? (x / w) ** 2 + (y / h) ** 2 <= 1 : Math.abs(x) <= w && Math.abs(y) <= h
}

function isInside(points: Point[], [x, y]: Point): boolean {
  let inside = false
  points.forEach((a, n) => {
    const b = points[(n + 1) % points.length] ?? a
    if (a[1] > y !== b[1] > y && x < a[0] + ((y - a[1]) / (b[1] - a[1])) * (b[0] - a[0])) inside = !inside
  })
  return inside
}

const STEPS = 12

/** The line through the points of a quad or path: as core/material/path.py has it. */
export function outline(placed: Placed): Point[] {
  const { points } = placed
  if (!placed.smooth) return points
  const at = (n: number): Point => points[(n + points.length) % points.length] ?? [0, 0]
  return points.flatMap((here, n) => {
    const [before, after, then] = [at(n - 1), at(n + 1), at(n + 2)]
    const [m0, m1] = [times(minus(after, before), 0.5), times(minus(then, here), 0.5)]
    return Array.from({ length: STEPS }, (_, k): Point => {
      const t = k / STEPS
      const parts = [times(here, (1 + 2 * t) * (1 - t) ** 2), times(m0, t * (1 - t) ** 2), times(after, t * t * (3 - 2 * t)), times(m1, t * t * (t - 1))]
      return parts.reduce(add, [0, 0])
    })
  })
}

/** Where a circle about a centre is best grasped: below it, or wherever else it lies on the screen; else at the screen's edge. */
export function reachOf(centre: Point, radius: number, ground: Point): Point {
  const ways: Point[] = [[0, 1], [0, -1], [1, 0], [-1, 0], ...[45, 135, 225, 315].map((degrees) => turned([1, 0], degrees))] // prettier-ignore
  const on = (place: Point): boolean => place.every((n, k) => n >= 0.01 && n <= (ground[k] ?? 1) - 0.01)
  const way = ways.find((one) => on(add(centre, times(one, radius))))
  if (way) return add(centre, times(way, radius))
  return [Math.min(ground[0] - 0.02, Math.max(0.02, centre[0])), Math.min(ground[1] - 0.02, centre[1] + radius)]
}
