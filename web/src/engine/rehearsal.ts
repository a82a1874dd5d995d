/** Rehearsals: touch, cues and dials by frame, as core/moment/rehearsal.py has them; recorded while someone plays. */
import { UNTOUCHED, type Moment, type Touch } from './moment'

export interface Step {
  frame: number
  /** In the middle where it is not said. */
  touch?: { down: boolean; u?: number; v?: number; turn?: number; scale?: number }
  cues?: string[]
  dials?: Record<string, number>
}

export interface RehearsalData {
  format: 'sun-glaze/rehearsal'
  version: 1 | 2
  seed?: number
  /** After so many frames it begins anew where it is played in a loop. */
  frames?: number
  steps?: Step[]
}

interface State {
  touch: Touch
  dials: Record<string, number>
}

export class Rehearsal {
  readonly steps: Step[] = []
  private readonly states: State[] = []

  constructor(
    steps: Step[] = [],
    readonly seed = 0,
    readonly frames = 0,
  ) {
    for (const step of steps) this.put(step)
  }

  static read(data: RehearsalData): Rehearsal {
    return new Rehearsal(data.steps ?? [], data.seed ?? 0, data.frames ?? 0)
  }

  write(): RehearsalData {
    return { format: 'sun-glaze/rehearsal', version: 2, seed: this.seed, frames: this.frames, steps: this.steps }
  }

  private put(step: Step): void {
    const before = this.states.at(-1) ?? { touch: UNTOUCHED, dials: {} }
    let { touch } = before
    if (step.touch) {
      const { down, u = UNTOUCHED.u, v = UNTOUCHED.v, turn = UNTOUCHED.turn, scale = UNTOUCHED.scale } = step.touch
      touch = { down, u, v, taps: touch.taps + Number(down && !touch.down), turn, scale }
    }
    this.steps.push(step)
    this.states.push({ touch, dials: { ...before.dials, ...step.dials } })
  }

  /**
   * Something is done at a frame; it counts from then on, or, where that frame has passed, from the last one. A finger that goes down
   * and up within a frame is seen in the next one; one that only moves is where it came to.
   */
  record(frame: number, done: Omit<Step, 'frame'>): void {
    const last = this.steps.at(-1)
    if (!last || frame > last.frame) return this.put({ frame, ...done })
    if (done.touch && last.touch && done.touch.down !== last.touch.down) return this.put({ frame: last.frame + 1, ...done })
    this.steps.pop()
    this.states.pop()
    const cues = [...(last.cues ?? []), ...(done.cues ?? [])]
    this.put({ ...last, ...done, ...(cues.length ? { cues } : {}), dials: { ...last.dials, ...done.dials }, frame: last.frame })
  }

  /** Forget what was done after a frame: the clock went back. */
  rewind(frame: number): void {
    while ((this.steps.at(-1)?.frame ?? -1) > frame) {
      this.steps.pop()
      this.states.pop()
    }
  }

  /** The moment with what the rehearsal has at its frame. */
  at(moment: Moment): Moment {
    const { frame } = moment.clock
    let [low, high] = [0, this.steps.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((this.steps[middle]?.frame ?? 0) <= frame) low = middle + 1
      else high = middle
    }
    const [step, state] = [this.steps[low - 1], this.states[low - 1]]
    return {
      ...moment,
      clock: { ...moment.clock, seed: this.seed },
      touch: state?.touch ?? UNTOUCHED,
      cues: step?.frame === frame ? (step.cues ?? []) : [],
      dials: { ...moment.dials, ...state?.dials },
    }
  }
}
