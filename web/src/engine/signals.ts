/** Runs a program's signals once a frame: the same few operations as in Python, in double precision, with state cells. */
import { getter, type Moment } from './moment'

export interface SignalData {
  /** [operation, attributes or argument places ...] */
  steps: (string | number)[][]
  outputs: number[]
  kinds: ('float' | 'int' | 'bool')[]
}

type Rule = (a: number, b: number, c: number) => number

const floats = new Float32Array(1)
const ints = new Int32Array(floats.buffer)

const RULES: Record<string, Rule> = {
  add: (a, b) => a + b,
  sub: (a, b) => a - b,
  mul: (a, b) => a * b,
  div: (a, b) => a / b,
  abs: Math.abs,
  floor: Math.floor,
  sqrt: (a) => (a > 0 ? Math.sqrt(a) : 0),
  lt: (a, b) => Number(a < b),
  le: (a, b) => Number(a <= b),
  select: (c, a, b) => (c ? a : b),
  iadd: (a, b) => (a + b) | 0,
  isub: (a, b) => (a - b) | 0,
  imul: (a, b) => Math.imul(a, b),
  idiv: (a, b) => (b === 0 ? 0 : Math.trunc(a / b) | 0),
  imin: (a, b) => Math.min(a, b),
  imax: (a, b) => Math.max(a, b),
  iand: (a, b) => a & b,
  ior: (a, b) => a | b,
  ixor: (a, b) => a ^ b,
  shl: (a, b) => a << (b & 31),
  shr: (a, b) => (a >>> (b & 31)) | 0,
  ilt: (a, b) => Number(a < b),
  ieq: (a, b) => Number(a === b),
  iselect: (c, a, b) => (c ? a : b),
  and: (a, b) => a & b,
  or: (a, b) => a | b,
  not: (a) => 1 - a,
  to_int: (a) => Math.trunc(a > -1e9 ? Math.min(a, 1e9) : -1e9),
  to_float: (a) => a,
  bool_to_int: (a) => a,
  float_bits: (a) => {
    floats[0] = a
    return ints[0] ?? 0
  },
  bits_float: (a) => {
    ints[0] = a
    return floats[0] ?? 0
  },
}

/** Cells that go on in frames that are drawn alone. */
const OF_PICTURES = 'drawn:'

/** State beside the cells that goes from frame to frame as they do. */
export interface Beside {
  /** From nothing. */
  clear(): void
  /** Remember how it is, and go back to that. */
  keep(): void
  back(): void
  /** A frame begins. */
  begin(moment: Moment): void
  /** Take it on by a frame in which the outputs are these. */
  step(moment: Moment, numbers: number[]): void
  /** What it knows by a name. */
  read(name: string): number
}

export class Signals {
  beside: Beside | null = null
  private cells = new Map<string, number>()
  private before = new Map<string, number>()
  private frame = -1
  private readonly found: Float64Array
  private readonly steps: SignalData['steps']
  private readonly getters = new Map<string, (moment: Moment) => number>()

  constructor(
    private readonly data: SignalData,
    seed = 0,
  ) {
    this.found = new Float64Array(data.steps.length)
    this.steps = data.steps
    for (const [op, name] of this.steps) {
      if (op !== 'moment') continue
      const read = String(name).startsWith('held:') ? () => this.beside?.read(String(name)) ?? 0 : getter(String(name))
      this.getters.set(String(name), name === 'seed' ? (moment) => (read(moment) + seed) | 0 : read)
    }
  }

  /**
   * Values of the outputs in a moment. A frame asked for again starts from the same state; those that nobody saw are stepped
   * through, each with its own moment.
   */
  at(moment: Moment, uniforms: Record<string, number>, missed?: (frame: number) => Moment): number[] {
    const { frame } = moment.clock
    if (frame === this.frame) {
      this.cells = new Map(this.before)
      this.beside?.back()
    } else {
      if (frame < this.frame || frame > this.frame + 300) {
        this.cells = new Map()
        this.beside?.clear()
        this.frame = Math.max(-1, frame - 301)
      }
      for (let n = this.frame + 1; n < frame; n++) this.step(missed?.(n) ?? moment, uniforms, false)
      this.frame = frame
      this.before = new Map(this.cells)
      this.beside?.keep()
    }
    return this.step(moment, uniforms)
  }

  /** `drawn`: whether somebody sees the frame; kept pictures, and cells that belong to them, stay what they were where nobody does. */
  private step(moment: Moment, uniforms: Record<string, number>, drawn = true): number[] {
    const { found } = this
    this.beside?.begin(moment)
    const kept: [string, number][] = []
    this.steps.forEach(([op, ...rest], n) => {
      const rule = RULES[op as string]
      const value = (place: string | number | undefined) => found[place as number] ?? 0
      if (rule) found[n] = rule(value(rest[0]), value(rest[1]), value(rest[2]))
      else if (op === 'const') found[n] = Number(rest[0])
      else if (op === 'uniform') found[n] = Number(uniforms[rest[0] as string] ?? 0)
      else if (op === 'moment') found[n] = this.getters.get(rest[0] as string)?.(moment) ?? 0
      else if (op === 'cell') found[n] = this.cells.get(rest[0] as string) ?? Number(rest[1])
      else if (op === 'together') found[n] = value(rest[0])
      else {
        // advance ID START PLACE
        found[n] = value(rest[2])
        kept.push([rest[0] as string, found[n] ?? 0])
      }
    })
    for (const [id, value] of kept) if (drawn || !id.startsWith(OF_PICTURES)) this.cells.set(id, value)
    const outputs = this.data.outputs.map((place) => found[place] ?? 0)
    this.beside?.step(moment, outputs)
    return outputs
  }
}
