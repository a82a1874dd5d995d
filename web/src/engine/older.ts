/** Programs of packages that were published long ago, as they are written now. */
import type { Program } from './player'

/** Programs before this version had the clock and the screen among their uniforms. */
const WITH_MOMENTS = 4
const ONCE_UNIFORMS: Record<string, string> = {
  time: 'time',
  frame: 'frame',
  delta: 'delta',
  'frame.width': 'width',
  'frame.height': 'height',
}

/** The same program, whose signals read the clock and the screen of moments. */
export function renewed(program: Program): Program {
  if (program.version >= WITH_MOMENTS) return program
  const steps = program.signals.steps.map((step) => {
    const name = step[0] === 'uniform' ? ONCE_UNIFORMS[String(step[1])] : undefined
    return name ? ['moment', name] : step
  })
  return { ...program, signals: { ...program.signals, steps } }
}
