/** Shapes of a painting as they are edited: moved, given points, laid one over the other. Places are parts of the template's side. */
import { lineOf, TEMPLATE, type Painting, type Shape } from '../../engine/painting'

export type Point = [number, number]

/** As core/material/painting.py bounds them. */
export const FEWEST_POINTS = 3
export const MOST_POINTS = 24
export const MOST_SHAPES = 24
export const PICTURE = 'picture'
const BEYOND = 0.5
/** Pixels of the template within which a point of a mirrored shape is drawn to the middle. */
export const NEAR_AXIS = 14

/** What a shape has where nothing is said of it; core/material/painting.py has the same. */
const USUAL: Omit<Shape, 'points'> = { smooth: true, fill: '#a8420d', opacity: 1, soft: 2, grown: 0, mirrored: true }
export const shapesOf = (value: unknown): Shape[] => ((value as Painting | null)?.shapes ?? []).map((shape) => ({ ...USUAL, ...shape }))

const held = (n: number): number => Number(Math.min(1 + BEYOND, Math.max(-BEYOND, n)).toFixed(4))
export const onAxis = ([u, v]: Point, mirrored: boolean): Point => [mirrored && Math.abs(u - 0.5) * TEMPLATE < NEAR_AXIS ? 0.5 : held(u), held(v)]

/** A shape of these points as it starts: in the colour that was used last. */
export function fresh(points: Point[], before: Shape[]): Shape {
  const last = before.at(-1)
  const fill = last && last.fill !== PICTURE ? last.fill : '#24525c'
  return { points, smooth: true, fill, opacity: 1, soft: 3, grown: 3, mirrored: true }
}

export function moved(shape: Shape, by: Point): Shape {
  return { ...shape, points: shape.points.map(([u, v]): Point => [held(u + by[0]), held(v + by[1])]) }
}

export function withPoint(shape: Shape, number: number, to: Point): Shape {
  return { ...shape, points: shape.points.map((point, n): Point => (n === number ? onAxis(to, shape.mirrored) : point)) }
}

/** Another point on the line, where it is the least way round; and its number. */
export function split(shape: Shape, at: Point): [Shape, number] {
  const { points } = shape
  const way = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1])
  const detours = points.map((point, n) => way(point, at) + way(at, points[(n + 1) % points.length] ?? at) - way(point, points[(n + 1) % points.length] ?? at))
  const after = detours.indexOf(Math.min(...detours)) + 1
  return [{ ...shape, points: [...points.slice(0, after), [held(at[0]), held(at[1])], ...points.slice(after)] }, after]
}

export function without(shape: Shape, number: number): Shape {
  return shape.points.length <= FEWEST_POINTS ? shape : { ...shape, points: shape.points.filter((_, n) => n !== number) }
}

/** The line of a shape in pixels of the template, as a path of SVG. */
export function pathOf(shape: Pick<Shape, 'points' | 'smooth'>): string {
  const line = lineOf(shape)
  const places: string[] = []
  for (let n = 0; n < line.length; n += 2) places.push(`${((line[n] ?? 0) * TEMPLATE).toFixed(1)} ${((line[n + 1] ?? 0) * TEMPLATE).toFixed(1)}`)
  return `M${places.join('L')}Z`
}
