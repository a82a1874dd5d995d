/** Curves as the desk draws them, against SciPy's monotone cubics (tests/shared/curves.json) and the standard library's HLS. */
import { describe, expect, it } from 'vitest'
import { hsl, monotone, smoothly, type Point, type RoundPoint } from '../src/document/curves'
import cases from '../../tests/shared/curves.json'

function expectLine(line: (x: number) => number, { at, gives }: { at: number[]; gives: number[] }): void {
  at.forEach((x, n) => expect(line(x), `at ${x}`).toBeCloseTo(gives[n] ?? NaN, 9))
}

describe('a tone curve', () => {
  it.each(cases.open)('through $points.length points is the monotone cubic', (one) => expectLine(monotone(one.points as Point[]), one))
  it('is held level beyond its ends and within 0 and 1', () => {
    const line = monotone([[0.2, 0.1], [0.8, 0.9]]) // prettier-ignore
    expect([line(-1), line(0.1), line(0.9), line(2)]).toEqual([0.1, 0.1, 0.9, 0.9])
  })
})

describe('a hue curve', () => {
  it.each(cases.round)('round the circle through $points.length points is periodic', (one) => expectLine(smoothly(one.points as RoundPoint[], 360, true), one))
  it.each(cases.between)('between two ends through $points.length points is level beyond them', (one) => expectLine(smoothly(one.points as RoundPoint[], 1, false), one))
  it('of one point is level, of none is nothing', () => {
    expect(smoothly([[120, 0.4]], 360, true)(300)).toBe(0.4)
    expect(smoothly([], 360, true)(7)).toBe(0)
  })
  it('goes through a point at the slope that it carries', () => {
    const line = smoothly([[90, 0.2, 0.01], [200, 0.5]], 360, true) // prettier-ignore
    expect((line(90.001) - line(89.999)) / 0.002).toBeCloseTo(0.01, 5)
  })
})

// Python's colorsys.rgb_to_hls, from memory of its formula: the six corners of the hue circle, greys, and one in between.
it.each([
  [[255, 0, 0], [0, 1, 0.5]],
  [[255, 255, 0], [60, 1, 0.5]],
  [[0, 255, 0], [120, 1, 0.5]],
  [[0, 255, 255], [180, 1, 0.5]],
  [[0, 0, 255], [240, 1, 0.5]],
  [[255, 0, 255], [300, 1, 0.5]],
  [[0, 0, 0], [0, 0, 0]],
  [[51, 51, 51], [0, 0, 0.2]],
  [[204, 102, 153], [330, 0.5, 0.6]],
] as const)('%j has hue, saturation and lightness %j', ([r, g, b], wanted) => {
  hsl(r, g, b).forEach((part, n) => expect(part).toBeCloseTo(wanted[n] ?? NaN, 9))
})
