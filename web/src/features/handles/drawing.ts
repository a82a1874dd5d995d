/** What is placed as lines on the page: paths for SVG, from places in short sides by way of a projection to CSS pixels. */
import { ARC } from './dragging'
import { across, add, along, minus, outline, times, turned, type Placed, type Point } from './placing'

type Project = (place: Point) => Point

const written = (points: Point[], closed = true): string => (points.length ? `M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}${closed ? 'Z' : ''}` : '')

/** An ellipse about a centre, turned. */
function ellipse(centre: Point, half: Point, degrees: number, project: Project): string {
  const [x, y] = project(centre)
  const far = project(add(centre, [1, 0]))[0] - x
  const [w, h] = [half[0] * far, half[1] * far]
  const [dx, dy] = turned([w, 0], degrees)
  const ends = [x - dx, y - dy, x + dx, y + dy].map((n) => n.toFixed(1))
  const arc = `A${w.toFixed(1)} ${h.toFixed(1)} ${degrees.toFixed(2)} 1 1`
  return `M${ends[0]} ${ends[1]}${arc} ${ends[2]} ${ends[3]}${arc} ${ends[0]} ${ends[1]}`
}

/** The lines that show what is placed. */
export function shapeOf(placed: Placed, ground: Point, project: Project): string {
  const { handle, centre, half, turn } = placed
  if (handle.kind === 'box') {
    const corners: Point[] = [[-1, -1], [1, -1], [1, 1], [-1, 1]] // prettier-ignore
    return written(corners.map(([x, y]) => project(add(centre, turned([half[0] * x, half[1] * y], turn)))))
  }
  if (handle.kind === 'circle') return ellipse(centre, half, turn, project)
  if (handle.kind === 'ring') return [placed.inner, placed.outer].map((far) => ellipse(centre, [far, far], 0, project)).join('')
  if (placed.points.length) return written(outline(placed).map(project), handle.kind !== 'line')
  if (handle.kind !== 'line') return ''
  const far = Math.hypot(...ground)
  const lineAt = (off: number): string => written([-far, far].map((n) => project(add(add(centre, times(across(placed), off)), times(along(placed), n)))), false)
  if (placed.length) {
    const ends = [-0.5, 0.5].map((part) => add(centre, times(across(placed), placed.length * part)))
    return lineAt(-placed.length / 2) + lineAt(placed.length / 2) + written(ends.map(project), false)
  }
  if (!handle.half) return lineAt(0)
  // Short strokes on the side that is kept.
  const strokes = [-0.3, -0.1, 0.1, 0.3].map((n) => {
    const foot = add(centre, times(along(placed), n))
    return written([foot, minus(foot, times(across(placed), 0.025))].map(project), false)
  })
  return lineAt(0) + strokes.join('')
}

/** The arc on which the grip for turning runs, beyond what it turns. */
export function turnArc(placed: Placed, ground: Point, project: Project): string {
  if (placed.handle.moves.turn === undefined || placed.handle.kind === 'line') return ''
  const far = placed.half[1] + ARC
  const up = add(placed.centre, turned([0, -far], placed.turn))
  const way = up.every((n, k) => n >= 0 && n <= (ground[k] ?? 1)) ? -far : far
  const spread = Math.min(24, (0.09 / far) * 57)
  const points = Array.from({ length: 9 }, (_, n) => project(add(placed.centre, turned([0, way], placed.turn + (n - 4) * (spread / 4)))))
  return written(points, false)
}
