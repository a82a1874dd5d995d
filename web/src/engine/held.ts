/**
 * Faces held steady from frame to frame, for what is drawn on them, as core/face/held.py has it: what is at rest is followed with a
 * lag, what moves nearly at once; one that comes or goes does so within moments.
 */
import { POINTS, type Face, type Moment } from './moment'

/** Seconds, at which points of a still face hardly flutter. */
export const LAG = 0.5
const COMES = 0.15
const GOES = 0.3
const WHOLE_STILL = 0.4
const EACH_STILL = 0.6
const SWIFT = 15
const STRAYS = 0.075
const CATCHES = 300
const SPEED_CUTOFF = 1
const FACES = 2
const SKIN_POINTS = 468

/** `points`: u, v, z one after another; `there`: how much of the face is there, 0 to 1. */
export interface Held {
  points: Float64Array
  seen: Float64Array
  whole: [number, number, number]
  each: Float64Array
  there: number
  /** Seconds for which the same points have been seen. */
  since: number
}

const share = (cutoff: number, delta: number) => 1 - Math.exp(-2 * Math.PI * cutoff * delta)
const pointsOf = (face: Face) => Float64Array.from({ length: 3 * POINTS }, (_, n) => face.points[n] ?? 0)

function fresh(points: Float64Array, there: number): Held {
  return { points, seen: points, whole: [0, 0, 0], each: new Float64Array(points.length), there, since: 0 }
}

function followed(old: Held, face: Face, moment: Moment, seconds: number): Held {
  const delta = Math.max(moment.clock.delta, 1e-6)
  const there = Math.min(1, old.there + delta / COMES)
  const points = pointsOf(face)
  if (seconds <= 0) return fresh(points, there)
  const size = Math.max(face.size, 1e-6)
  const units = [1 / size, moment.screen.rows / moment.screen.columns / size, 1 / size] as const
  const behind: [number, number, number] = [0, 0, 0]
  for (let n = 0; n < 3 * SKIN_POINTS; n++) behind[(n % 3) as 0] += (((points[n] ?? 0) - (old.points[n] ?? 0)) * (units[n % 3] ?? 1)) / SKIN_POINTS
  let { whole, each, since } = old
  since += delta
  if (points.some((part, n) => part !== old.seen[n])) {
    const together: [number, number, number] = [0, 0, 0]
    const moved = points.map((part, n) => ((part - (old.seen[n] ?? 0)) * (units[n % 3] ?? 1)) / since)
    for (let n = 0; n < 3 * SKIN_POINTS; n++) together[(n % 3) as 0] += (moved[n] ?? 0) / SKIN_POINTS
    const slow = share(SPEED_CUTOFF, since)
    whole = old.whole.map((before, axis) => before + ((together[axis as 0] ?? 0) - before) * slow) as Held['whole']
    each = old.each.map((before, n) => before + ((moved[n] ?? 0) - (together[n % 3] ?? 0) - before) * slow)
    since = 0
  }
  const base = 1 / (2 * Math.PI * seconds) + SWIFT * Math.max(Math.hypot(whole[0], whole[1]) - WHOLE_STILL, 0)
  const caught = base + CATCHES * Math.max(Math.hypot(behind[0], behind[1]) - STRAYS, 0)
  const now = new Float64Array(points.length)
  for (let p = 0; p < points.length; p += 3) {
    const cutoff = caught + SWIFT * Math.max(Math.hypot(each[p] ?? 0, each[p + 1] ?? 0) - EACH_STILL, 0)
    const part = share(cutoff, delta)
    for (let n = p; n < p + 3; n++) now[n] = (old.points[n] ?? 0) + ((points[n] ?? 0) - (old.points[n] ?? 0)) * part
  }
  return { points: now, seen: points, whole, each, there, since }
}

export type HeldFaces = (Held | null)[]

/** The faces of a moment after those of the frame before; none where it is the first. `seconds`: the lag of what is at rest. */
export function hold(before: HeldFaces | undefined, moment: Moment, seconds: number): HeldFaces {
  const { delta } = moment.clock
  return Array.from({ length: FACES }, (_, n) => {
    const old = before?.[n] ?? null
    const face = moment.faces[n]
    if (!face) {
      const left = old ? old.there - delta / GOES : 0
      return old && left > 0 ? { ...old, there: left } : null
    }
    return old ? followed(old, face, moment, seconds) : fresh(pointsOf(face), before ? Math.min(1, delta / COMES) : 1)
  })
}
