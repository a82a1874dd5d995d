/**
 * What the points of a face say, as core/face/measure.py and core/face/pose.py have it: place, size, how far mouth and eyes are open, where the
 * head is and how it is turned. For trackers on a device, which give points alone.
 */
import { rings, steady } from '../../../sunglaze/core/face/shapes.json'
import type { Face } from './moment'

type Point = [number, number]
type Three = [number, number, number]

/** Six points an eye: corners first and fourth, upper lid between them, then lower. */
const LEFT_EYE = [33, 160, 158, 133, 153, 144]
const RIGHT_EYE = [362, 385, 387, 263, 373, 380]
const NOSE = 4
/** The upper edge of the upper lip and the lower edge of the lower one, in the middle; and the corners of the lips. */
const LIPS = [0, 17]
const CORNERS = [61, 291]
const [NEUTRAL_SMILE, FULL_SMILE] = [0.86, 1.1]
const [NEUTRAL_BROWS, LIFTED_BROWS] = [0.44, 0.57]
const [OPEN_EYE, SHUT_EYE] = [0.3, 0.08]
/** Degrees along the longer side of the picture of a phone's front camera. */
const FIELD_OF_VIEW = 63
const STEPS = 12

const far = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1])
const degrees = (radians: number): number => (radians * 180) / Math.PI

/** `points`: u, v and z each, in parts of the picture's width and height (z: of its width). `width` and `height` give its shape. */
export function faceOf(points: number[][], width: number, height: number): Face {
  const at = (n: number): Point => [(points[n]?.[0] ?? 0) * width, (points[n]?.[1] ?? 0) * height]
  const mean = (some: Point[]): Point => [some.reduce((sum, p) => sum + p[0], 0) / some.length, some.reduce((sum, p) => sum + p[1], 0) / some.length]
  const [left, right] = [mean(rings['left eye'].map(at)), mean(rings['right eye'].map(at))]
  const middle = mean([left, right, at(NOSE)])
  const size = Math.max(far(left, right), 1e-9)
  const up = [(right[1] - left[1]) / size ** 2, (left[0] - right[0]) / size ** 2] as const
  /** How far one place is above another, along the face, in distances of the eyes. */
  const lift = (a: Point, b: Point) => (a[0] - b[0]) * up[0] + (a[1] - b[1]) * up[1]
  const [corners, lips] = [CORNERS.map(at), LIPS.map(at)]
  const smile = far(corners[0] as Point, corners[1] as Point) / size + lift(mean(corners), mean(lips))
  const brows = (lift(mean(rings['left brow'].map(at)), left) + lift(mean(rings['right brow'].map(at)), right)) / 2
  const pose = headPose(steady.points.map(at), width, height)
  return {
    points: points.flatMap(([u = 0, v = 0, z = 0]) => [u, v, z]),
    hidden: new Uint8Array(points.length),
    place: [middle[0] / width, middle[1] / height],
    size: far(left, right) / width,
    centimetres: pose.place,
    degrees: pose.degrees,
    mouth: far(at(13), at(14)) / Math.max(far(at(78), at(308)), 1e-9),
    blinks: [blink(LEFT_EYE.map(at)), blink(RIGHT_EYE.map(at))],
    smile: share(smile, NEUTRAL_SMILE, FULL_SMILE),
    brows: share(brows, NEUTRAL_BROWS, LIFTED_BROWS),
  }
}

/** How far a number is on its way from one to another, 0 to 1. */
const share = (value: number, from: number, to: number): number => Math.min(1, Math.max(0, (value - from) / (to - from)))

/** The eye aspect ratio (Soukupová and Čech 2016, equation 1) as 0 open to 1 shut. */
function blink(six: Point[]): number {
  const [a, b, c, d, e, f] = six as [Point, Point, Point, Point, Point, Point]
  const ratio = (far(b, f) + far(c, e)) / Math.max(2 * far(a, d), 1e-9)
  return share(ratio, OPEN_EYE, SHUT_EYE)
}

/** Centimetres from the lens (x right, y up, z towards it) and degrees (turned right, nodded down, tilted anticlockwise) of a head of
 * middle size, from the steady points in pixels: by a weak perspective first (DeMenthon and Davis 1995), then Gauss-Newton. */
export function headPose(seen: Point[], width: number, height: number): { place: Three; degrees: Three } {
  const focal = Math.max(width, height) / 2 / Math.tan((FIELD_OF_VIEW * Math.PI) / 360)
  const model = steady.places as Three[]
  const image = seen.map(([x, y]): Point => [(x - width / 2) / focal, -(y - height / 2) / focal])
  let state = weakly(model, image)
  for (let n = 0; n < STEPS; n++) {
    const now = residuals(state, model, image)
    const columns = state.map((_, k) => {
      const step = k < 3 ? 1e-5 : 1e-4
      const moved = state.map((value, j) => (j === k ? value + step : value))
      return residuals(moved, model, image).map((value, i) => (value - (now[i] ?? 0)) / step)
    })
    const normal = columns.map((a) => columns.map((b) => dot(a, b)))
    const change = solved(normal, columns.map((a) => -dot(a, now)))
    if (!change) break
    state = state.map((value, k) => value + (change[k] ?? 0))
    if (Math.hypot(...change) < 1e-9) break
  }
  const [x = 0, y = 0, z = 0, tx = 0, ty = 0, tz = 0] = state
  const r = matrix([x, y, z])
  return {
    place: [tx, ty, tz],
    degrees: [degrees(Math.atan2(-r[2][0], r[2][2])), degrees(Math.asin(Math.min(1, Math.max(-1, r[2][1])))), degrees(Math.atan2(-r[0][1], r[1][1]))],
  }
}

const dot = (a: number[], b: number[]): number => a.reduce((sum, value, n) => sum + value * (b[n] ?? 0), 0)
type Matrix = [Three, Three, Three]

/** A turn by its vector (Rodrigues). */
function matrix([x, y, z]: Three): Matrix {
  const angle = Math.hypot(x, y, z)
  const [a, b, c] = angle < 1e-12 ? [1, 0, 0] : [x / angle, y / angle, z / angle]
  const [s, k] = [Math.sin(angle), Math.cos(angle)]
  const t = 1 - k
  return [
    [t * a * a + k, t * a * b - s * c, t * a * c + s * b],
    [t * a * b + s * c, t * b * b + k, t * b * c - s * a],
    [t * a * c - s * b, t * b * c + s * a, t * c * c + k],
  ]
}

/** The vector of a turn. */
function vector(r: Matrix): Three {
  const angle = Math.acos(Math.min(1, Math.max(-1, (r[0][0] + r[1][1] + r[2][2] - 1) / 2)))
  const [x, y, z] = [r[2][1] - r[1][2], r[0][2] - r[2][0], r[1][0] - r[0][1]]
  const length = Math.hypot(x, y, z)
  return length < 1e-9 ? [0, 0, 0] : [(x / length) * angle, (y / length) * angle, (z / length) * angle]
}

function residuals(state: number[], model: Three[], image: Point[]): number[] {
  const [x = 0, y = 0, z = 0, tx = 0, ty = 0, tz = 0] = state
  const r = matrix([x, y, z])
  return model.flatMap((p, n) => {
    const [px, py, pz] = [dot(r[0], p) + tx, dot(r[1], p) + ty, dot(r[2], p) + tz]
    const [u, v] = image[n] ?? [0, 0]
    return [px / -pz - u, py / -pz - v]
  })
}

/** A turn and a place under which a model that is thin against its distance looks like the picture: two straight fits. */
function weakly(model: Three[], image: Point[]): number[] {
  const centre = [0, 1, 2].map((k) => model.reduce((sum, p) => sum + (p[k] ?? 0), 0) / model.length) as Three
  const flat = model.map((p) => p.map((value, k) => value - (centre[k] ?? 0)))
  const normal = [0, 1, 2].map((i) => [0, 1, 2].map((j) => flat.reduce((sum, p) => sum + (p[i] ?? 0) * (p[j] ?? 0), 0)))
  const middle: Point = [image.reduce((sum, p) => sum + p[0], 0) / image.length, image.reduce((sum, p) => sum + p[1], 0) / image.length]
  const row = (axis: 0 | 1): Three =>
    (solved(normal, [0, 1, 2].map((k) => flat.reduce((sum, p, n) => sum + (p[k] ?? 0) * ((image[n]?.[axis] ?? 0) - middle[axis]), 0))) ?? [0, 0, 0]) as Three
  const [i, j] = [row(0), row(1)]
  const scale = Math.max((Math.hypot(...i) + Math.hypot(...j)) / 2, 1e-9)
  const a = unit(i)
  const b = unit(j.map((value, k) => value - dot(j, a) * (a[k] ?? 0)) as Three)
  const r: Matrix = [a, b, [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]]
  const away = 1 / scale
  const moved = r.map((line) => dot(line, centre))
  return [...vector(r), middle[0] * away - (moved[0] ?? 0), middle[1] * away - (moved[1] ?? 0), -away - (moved[2] ?? 0)]
}

const unit = (v: Three): Three => {
  const length = Math.max(Math.hypot(...v), 1e-12)
  return [v[0] / length, v[1] / length, v[2] / length]
}

/** The solution of linear equations by elimination with pivots; nothing where they have none. */
function solved(rows: number[][], right: number[]): number[] | null {
  const all = rows.map((row, n) => [...row, right[n] ?? 0])
  const size = rows.length
  for (let k = 0; k < size; k++) {
    let pivot = k
    for (let n = k + 1; n < size; n++) if (Math.abs(all[n]?.[k] ?? 0) > Math.abs(all[pivot]?.[k] ?? 0)) pivot = n
    const top = all[pivot]
    if (!top || Math.abs(top[k] ?? 0) < 1e-15) return null
    ;[all[k], all[pivot]] = [top, all[k] ?? []]
    for (let n = 0; n < size; n++) {
      const line = all[n]
      if (n === k || !line) continue
      const by = (line[k] ?? 0) / (top[k] ?? 1)
      for (let m = k; m <= size; m++) line[m] = (line[m] ?? 0) - by * (top[m] ?? 0)
    }
  }
  return all.map((row, k) => (row[size] ?? 0) / (row[k] ?? 1))
}
