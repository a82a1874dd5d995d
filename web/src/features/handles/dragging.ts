/** What a drag or a key makes of what is placed: new values for the parts of its handle. Nothing here knows of controls or of the page. */
import { add, along, across, long, middle, minus, reachOf, times, turned, type Placed, type Point } from './placing'
import { t } from '../../words'

export type Part = string
export type Values = Record<Part, number | Point | { points: Point[]; smooth: boolean }>

/** What one grasps. `sides`: which way a corner or side lies from the centre; `number`: of an end or point. */
export interface Grip {
  id: string
  act: 'move' | 'scale' | 'turn' | 'inner' | 'outer' | 'end' | 'point'
  at: Point
  sides: Point
  number: number
  title: string
}

/** `held`: Shift: along one axis, in steps, in proportion. */
export interface Drag {
  from: Point
  to: Point
  held: boolean
}

const LEAST = 0.01
export const STEP_DEGREES = 15
/** Short sides that the grip for turning stands off what is turned. */
export const ARC = 0.06
/** Where the diagonal of an ellipse's box meets it, of the way to the corner. */
const ASLANT = Math.SQRT1_2

/** All that of what is placed can be grasped; the first is what moves it as a whole. */
export function grips(placed: Placed, ground: Point): Grip[] {
  const { handle, centre, half } = placed
  const { moves, kind } = handle
  const grip = (act: Grip['act'], at: Point, title: string, sides: Point = [0, 0], number = 0): Grip => ({ id: `${act}${sides.join()}${number}`, act, at, sides, number, title })
  const found = [grip('move', centre, 'place')]
  const corner = (x: number, y: number): Point => add(centre, turned([half[0] * x, half[1] * y], placed.turn))
  if (kind === 'box') {
    const scales = moves.size !== undefined || moves.width !== undefined || moves.height !== undefined
    const corners: Point[] = scales ? [[1, 1], [-1, 1], [1, -1], [-1, -1]] : moves.count === undefined ? [] : [[1, 1]] // prettier-ignore
    for (const sides of corners) found.push(grip('scale', corner(...sides), 'size', sides))
    if (moves.width !== undefined) for (const x of [1, -1]) found.push(grip('scale', corner(x, 0), 'width', [x, 0]))
    if (moves.height !== undefined) for (const y of [1, -1]) found.push(grip('scale', corner(0, y), 'height', [0, y]))
  } else if (kind === 'circle') {
    if (moves.radius !== undefined) found.push(grip('scale', reachOf(centre, half[0], ground), 'radius', [1, 1]))
    if (moves.width !== undefined) {
      for (const sides of [[1, 1], [-1, 1], [1, -1], [-1, -1]] as Point[]) found.push(grip('scale', corner(sides[0] * ASLANT, sides[1] * ASLANT), 'size', sides)) // prettier-ignore
      for (const x of [1, -1]) found.push(grip('scale', corner(x, 0), 'width', [x, 0]))
      for (const y of [1, -1]) found.push(grip('scale', corner(0, y), 'height', [0, y]))
    }
  } else if (kind === 'ring') {
    found.push(grip('inner', reachOf(centre, placed.inner, ground), moves.inner === undefined ? t('handles.innerEdge') : t('handles.whereItBegins')))
    found.push(grip('outer', reachOf(centre, placed.outer, ground), moves.outer === undefined ? t('handles.outerEdge') : t('handles.whereItIsFull')))
  } else if (kind === 'line' && placed.length) {
    for (const [number, title] of [[0, 'start'], [1, 'end']] as const) found.push(grip('end', add(centre, times(across(placed), placed.length * (number - 0.5))), title, [0, 0], number)) // prettier-ignore
  } else if (placed.points.length) {
    const titles = kind === 'line' ? ['start', 'end'] : null
    placed.points.forEach((point, n) => found.push(grip(kind === 'path' ? 'point' : 'end', point, titles?.[n] ?? t('handles.point', { n: n + 1 }), [0, 0], n)))
  }
  if (moves.turn !== undefined && !(kind === 'line' && placed.length)) found.push(grip('turn', turner(placed, ground), 'turn'))
  return found
}

/** Where the grip for turning is: beyond the upper side, or below where that lies outside of the screen; on a border, along it. */
function turner(placed: Placed, ground: Point): Point {
  if (placed.handle.kind === 'line') {
    const ways = [0.22, -0.22].map((far) => add(placed.centre, times(along(placed), far)))
    return ways.find((one) => inside(one, ground)) ?? ways[0] ?? placed.centre
  }
  const far = placed.half[1] + ARC
  const ways = [-far, far].map((y) => add(placed.centre, turned([0, y], placed.turn)))
  return ways.find((one) => inside(one, ground)) ?? ways[0] ?? placed.centre
}

const inside = (place: Point, ground: Point): boolean => place.every((n, k) => n >= 0 && n <= (ground[k] ?? 1))

/** The values after a drag, and the place that it moved to, where it moved the whole. `before`: as it was when the drag began. */
export function dragged(before: Placed, grip: Grip, drag: Drag, ground: Point): Values {
  const { handle, centre } = before
  const by = minus(drag.to, drag.from)
  if (grip.act === 'move') return movedTo(before, add(centre, drag.held ? onAxis(by) : by), ground)
  if (grip.act === 'turn') {
    const angle = (place: Point): number => (Math.atan2(place[1] - centre[1], place[0] - centre[0]) * 180) / Math.PI
    const free = before.turn + angle(drag.to) - angle(drag.from)
    return { turn: around((drag.held ? Math.round(free / STEP_DEGREES) * STEP_DEGREES : free) - before.base) }
  }
  if (grip.act === 'inner' || grip.act === 'outer') return ringed(before, grip.act, long(minus(drag.to, centre)) - long(minus(drag.from, centre)))
  if (grip.act === 'end') return ended(before, grip.number, drag, ground)
  if (grip.act === 'point') return { path: pathOf(before, before.points.map((point, n) => (n === grip.number ? add(point, drag.held ? onAxis(by) : by) : point)), ground) } // prettier-ignore
  return scaled(before, grip, handle.corner ? drag.to : add(grip.at, by), drag.held)
}

const onAxis = (by: Point): Point => (Math.abs(by[0]) > Math.abs(by[1]) ? [by[0], 0] : [0, by[1]])
/** Degrees from -180 to 180. */
const around = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180

/** The values with which the whole stands with its centre at a place. */
export function movedTo(before: Placed, centre: Point, ground: Point): Values {
  const { handle } = before
  const by = minus(centre, before.centre)
  const part = (place: Point): Point => [place[0] / ground[0], place[1] / ground[1]]
  const names = { line: ['start', 'end'], quad: ['first', 'second', 'third', 'fourth'] }[handle.kind as string]
  if (handle.kind === 'path') return { path: pathOf(before, before.points.map((point) => add(point, by)), ground) } // prettier-ignore
  if (names && before.points.length) return Object.fromEntries(before.points.map((point, n) => [names[n] ?? '', part(add(point, by))]))
  if (before.frame) {
    const { at: hangs, right, down } = before.frame
    const [away, flat] = [minus(centre, hangs), right[0] * down[1] - right[1] * down[0]]
    if (Math.abs(flat) < LEAST * LEAST) return {}
    return { right: (away[0] * down[1] - away[1] * down[0]) / flat, up: -(right[0] * away[1] - right[1] * away[0]) / flat }
  }
  const at = handle.corner ? minus(centre, before.half) : centre
  return { at: minus(part(at), handle.origin as Point) }
}

function scaled(before: Placed, grip: Grip, to: Point, held: boolean): Values {
  const { moves } = before.handle
  const [w, h] = before.half
  if (moves.count !== undefined) {
    const corner = minus(before.centre, before.half)
    return { count: 1 / Math.max(LEAST, Math.max(to[0] - corner[0], to[1] - corner[1])) }
  }
  if (moves.radius !== undefined) return { radius: Math.max(LEAST, long(minus(to, before.centre))) }
  const local = turned(minus(to, before.centre), -before.turn)
  const aslant = before.handle.kind === 'circle' && grip.sides[0] && grip.sides[1] ? ASLANT : 1
  let [x, y] = [Math.max(LEAST, (local[0] * grip.sides[0]) / aslant), Math.max(LEAST, (local[1] * grip.sides[1]) / aslant)]
  if (moves.size !== undefined) return { size: before.size * Math.max(x / w, y / h) }
  if (held && grip.sides[0] && grip.sides[1]) [x, y] = times([w, h], Math.max(x / w, y / h))
  const found: Values = {}
  if (grip.sides[0] && moves.width !== undefined) found.width = 2 * x
  if (grip.sides[1] && moves.height !== undefined) found.height = 2 * y
  return found
}

function ringed(before: Placed, which: 'inner' | 'outer', by: number): Values {
  const { moves } = before.handle
  const far = Math.max(0, before[which] + by)
  if (moves[which] !== undefined) return { [which]: far }
  const [inner, outer] = which === 'inner' ? [Math.min(far, before.outer - 0.002), before.outer] : [before.inner, Math.max(far, before.inner + 0.002)]
  return { radius: (inner + outer) / 2, thickness: outer - inner }
}

/** One end of a line or ramp, or a corner of a quad, elsewhere. A ramp turns and grows with it. */
function ended(before: Placed, number: number, drag: Drag, ground: Point): Values {
  const { handle, centre, length } = before
  const part = (place: Point): Point => [place[0] / ground[0], place[1] / ground[1]]
  if (handle.kind === 'quad') {
    const name = ['first', 'second', 'third', 'fourth'][number] ?? 'first'
    return { [name]: part(add(before.points[number] ?? centre, minus(drag.to, drag.from))) }
  }
  const ends = before.points.length ? before.points : [-0.5, 0.5].map((far) => add(centre, times(across(before), length * far)))
  const fixed = ends[1 - number] ?? centre
  let free = add(ends[number] ?? centre, minus(drag.to, drag.from))
  if (drag.held) {
    const way = minus(free, fixed)
    const degrees = Math.round((Math.atan2(way[1], way[0]) * 180) / Math.PI / STEP_DEGREES) * STEP_DEGREES
    free = add(fixed, turned([long(way), 0], degrees))
  }
  if (before.points.length) return { [number ? 'end' : 'start']: part(free) }
  const way = number ? minus(free, fixed) : minus(fixed, free)
  if (long(way) < LEAST) return {}
  return {
    at: minus(part(middle([free, fixed])), handle.origin as Point),
    length: long(way),
    turn: around((Math.atan2(way[1], way[0]) * 180) / Math.PI - 90),
  }
}

/** A path's value of points on the screen. */
export function pathOf(before: Placed, points: Point[], ground: Point): { points: Point[]; smooth: boolean } {
  return { smooth: before.smooth, points: points.map((point): Point => minus(point, times(ground, 0.5)).map((n) => Number(n.toFixed(4))) as Point) }
}

/** What an arrow key does to a grip: a step in pixels of the picture, or in degrees. */
export function nudged(before: Placed, grip: Grip, by: Point, pixel: number, held: boolean, ground: Point): Values {
  if (grip.act === 'turn') return { turn: around(before.turn - before.base + (by[0] || by[1]) * (held ? STEP_DEGREES : 1)) }
  const step = times(by, pixel * (held ? 10 : 1))
  // Outwards is more, whichever corner it is.
  const out: Point = grip.act === 'scale' ? [step[0] * (grip.sides[0] || 1), -step[1] * (grip.sides[1] || 1)] : step
  return dragged(before, grip, { from: grip.at, to: add(grip.at, out), held: false }, ground)
}

export interface Snapped {
  to: Point
  /** Guides to draw: places across and down, in short sides. */
  across: number[]
  down: number[]
}

const LINES = [0, 1 / 3, 1 / 2, 2 / 3, 1]

/** Where the centre of what moves is drawn to: its middle and its upright edges to thirds, middle and edges of the screen. */
export function snapped(before: Placed, centre: Point, ground: Point, near: number): Snapped {
  const upright = before.handle.kind === 'box' && Math.abs(before.turn % 180) < 0.01
  const axis = (k: 0 | 1): [number, number[]] => {
    const lines = LINES.map((part) => part * ground[k])
    const offsets = upright ? [0, -before.half[k], before.half[k]] : [0]
    const found = offsets.flatMap((offset) => lines.map((line) => ({ line, miss: line - (centre[k] + offset) })))
    const best = found.reduce((a, b) => (Math.abs(b.miss) < Math.abs(a.miss) - 1e-9 ? b : a))
    return Math.abs(best.miss) <= near ? [centre[k] + best.miss, [best.line]] : [centre[k], []]
  }
  const [x, acrossGuides] = axis(0)
  const [y, downGuides] = axis(1)
  return { to: [x, y], across: acrossGuides, down: downGuides }
}
