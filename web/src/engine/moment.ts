/** The moment: all that an effect can know of a frame, the same as in Python (core/moment), which writes and reads it as JSON. */

export const RATE = 30
export const POINTS = 478

export interface Clock {
  frame: number
  seconds: number
  delta: number
  /** Of this run, on top of the effect's own. */
  seed: number
}

export interface Touch {
  down: boolean
  u: number
  v: number
  taps: number
  /** Degrees and a factor: by how much two fingers have turned and spread things so far. */
  turn: number
  scale: number
}

export interface Face {
  /** u, v and z of each point, one after another. */
  points: ArrayLike<number>
  hidden: ArrayLike<number>
  place: [number, number]
  size: number
  centimetres: [number, number, number]
  degrees: [number, number, number]
  mouth: number
  blinks: [number, number]
  smile: number
  brows: number
}

export interface Moment {
  clock: Clock
  screen: { columns: number; rows: number; side: 'front' | 'back' }
  touch: Touch
  cues: readonly string[]
  dials: Readonly<Record<string, number>>
  faces: readonly Face[]
}

export const UNTOUCHED: Touch = { down: false, u: 0.5, v: 0.5, taps: 0, turn: 0, scale: 1 }

export function clockAt(frame: number, seed = 0, rate = RATE): Clock {
  return { frame, seconds: frame / rate, delta: 1 / rate, seed }
}

/** A moment of a frame in which nobody does anything. */
export function quietMoment(frame: number, columns: number, rows: number, rate = RATE): Moment {
  return { clock: clockAt(frame, 0, rate), screen: { columns, rows, side: 'front' }, touch: UNTOUCHED, cues: [], dials: {}, faces: [] }
}

const GETTERS: Record<string, (moment: Moment) => number> = {
  time: (m) => m.clock.seconds,
  frame: (m) => m.clock.frame,
  delta: (m) => m.clock.delta,
  seed: (m) => m.clock.seed,
  width: (m) => m.screen.columns,
  height: (m) => m.screen.rows,
  back: (m) => Number(m.screen.side === 'back'),
  'touch.down': (m) => Number(m.touch.down),
  'touch.u': (m) => m.touch.u,
  'touch.v': (m) => m.touch.v,
  'touch.taps': (m) => m.touch.taps,
  'touch.turn': (m) => m.touch.turn,
  'touch.scale': (m) => m.touch.scale,
  faces: (m) => m.faces.length,
}

const OF_FACE: Record<string, (face: Face) => number> = {
  seen: () => 1,
  u: (f) => f.place[0],
  v: (f) => f.place[1],
  size: (f) => f.size,
  x: (f) => f.centimetres[0],
  y: (f) => f.centimetres[1],
  z: (f) => f.centimetres[2],
  turn: (f) => f.degrees[0],
  nod: (f) => f.degrees[1],
  tilt: (f) => f.degrees[2],
  mouth: (f) => f.mouth,
  'left blink': (f) => f.blinks[0],
  'right blink': (f) => f.blinks[1],
  smile: (f) => f.smile,
  brows: (f) => f.brows,
}

/** What reads a number of moments by its name (core/language/moments.py); what is not known is 0. */
export function getter(name: string): (moment: Moment) => number {
  const plain = GETTERS[name]
  if (plain) return plain
  const [group = '', rest = ''] = [name.slice(0, name.indexOf(':')), name.slice(name.indexOf(':') + 1)]
  if (group === 'dial') return (m) => m.dials[rest] ?? 0
  if (group === 'dialled') return (m) => Number(rest in m.dials)
  if (group === 'cue') return (m) => Number(m.cues.includes(rest))
  if (group !== 'face') return () => 0
  const number = Number(rest[0])
  const point = /^\d\.point:(\d+)\.([uvz])$/.exec(rest)
  if (point) {
    const place = 3 * Number(point[1]) + 'uvz'.indexOf(point[2] ?? 'u')
    return (m) => m.faces[number]?.points[place] ?? 0
  }
  const of = OF_FACE[rest.slice(2)]
  return (m) => {
    const face = m.faces[number]
    return face && of ? of(face) : 0
  }
}

interface Packed {
  kind: string
  shape: number[]
  data: string
}

const ARRAYS: Record<string, new (buffer: ArrayBuffer) => ArrayLike<number>> = {
  uint8: Uint8Array,
  bool: Uint8Array,
  uint32: Uint32Array,
  float32: Float32Array,
  float64: Float64Array,
}

function unpacked({ kind, data }: Packed): ArrayLike<number> {
  const bytes = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0))
  return new (ARRAYS[kind] ?? Uint8Array)(bytes.buffer)
}

type PlainFace = Omit<Face, 'points' | 'hidden'> & { points: Packed; hidden: Packed }

/** A face as Python writes it. */
export function readFace(plain: PlainFace): Face {
  return { ...plain, points: unpacked(plain.points), hidden: unpacked(plain.hidden) }
}

/** A moment as Python writes it. */
export type PlainMoment = Omit<Moment, 'faces'> & { faces: PlainFace[] }

export function readMoment(plain: PlainMoment): Moment {
  return { ...plain, faces: plain.faces.map(readFace) }
}
