/** Where placed things lie, and what drags and keys make of them. Lengths are in short sides of the screen. */
import { describe, expect, it } from 'vitest'
import type { Plain } from '../src/api/types'
import { dragged, grips, movedTo, nudged, snapped, type Drag, type Grip } from '../src/features/handles/dragging'
import { fitted, groundOf, outline, placing, reachOf, within, type Placed, type Point } from '../src/features/handles/placing'
import outlines from '../../tests/shared/outlines.json'
import { handle } from './made'

const TALL = groundOf(540, 960)

function placed(kind: Parameters<typeof handle>[0], values: Record<string, Plain>, more: Parameters<typeof handle>[2] = {}, picture: Point | null = null): Placed {
  const moves = Object.fromEntries(Object.keys(values).filter((name) => !name.startsWith('_')).map((name) => [name, name]))
  const found = placing(handle(kind, moves, more), (name) => values[name], TALL, picture)
  if (!found) throw new Error('nothing is placed')
  return found
}

function grip(of: Placed, id: string): Grip {
  const found = grips(of, TALL).find((one) => one.id === id)
  if (!found) throw new Error(`there is no grip ${id}: ${grips(of, TALL).map((one) => one.id).join(' ')}`) // prettier-ignore
  return found
}

const drag = (from: Point, by: Point, held = false): Drag => ({ from, to: [from[0] + by[0], from[1] + by[1]], held })
const close = (found: Point | number[], wanted: Point | number[]): void => found.forEach((part, n) => expect(part).toBeCloseTo(wanted[n] ?? NaN, 6))

describe('a box', () => {
  const box = placed('box', { at: [0.4, 0.45], width: 0.5, height: 0.25, turn: 30 })
  it('lies where its controls say', () => {
    close(box.centre, [0.4, 0.45 * (16 / 9)])
    expect([box.half, box.turn]).toEqual([[0.25, 0.125], 30])
  })
  it('is moved as far as the hand, and on one axis with Shift', () => {
    close(dragged(box, grip(box, 'move0,00'), drag([0, 0], [0.1, 0.16]), TALL).at as Point, [0.5, 0.45 + 0.09])
    close(dragged(box, grip(box, 'move0,00'), drag([0, 0], [0.1, 0.16], true), TALL).at as Point, [0.4, 0.54])
  })
  it('grows at a side to both sides, along its own turn', () => {
    const side = grip(box, 'scale1,00')
    const along: Point = [Math.cos(Math.PI / 6) * 0.1, Math.sin(Math.PI / 6) * 0.1]
    expect(dragged(box, side, drag(side.at, along), TALL).width).toBeCloseTo(0.7, 6)
    const corner = grip(box, 'scale1,10')
    const both = dragged(box, corner, drag(corner.at, along, true), TALL)
    expect(Number(both.width) / Number(both.height)).toBeCloseTo(2, 6)
  })
  it('turns about its centre, in steps of 15 degrees with Shift', () => {
    const arc = grip(box, 'turn0,00')
    const quarter = { from: [box.centre[0], box.centre[1] - 0.2] as Point, to: [box.centre[0] + 0.2, box.centre[1] + 0.01] as Point }
    expect(dragged(box, arc, { ...quarter, held: false }, TALL).turn).toBeCloseTo(30 + 90 + (Math.atan2(0.01, 0.2) * 180) / Math.PI, 6)
    expect(dragged(box, arc, { ...quarter, held: true }, TALL).turn).toBe(120)
  })
  it('holds what lies within its turned sides', () => {
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)]
    expect(within(box, [box.centre[0] + 0.24 * c, box.centre[1] + 0.24 * s])).toBe(true)
    expect(within(box, [box.centre[0] + 0.24, box.centre[1]])).toBe(true)
    expect(within(box, [box.centre[0] + 0.24 * c, box.centre[1] - 0.24 * s])).toBe(false)
  })
  it('goes by pixels and degrees with keys, ten and fifteen at a time with Shift', () => {
    close(nudged(box, grip(box, 'move0,00'), [1, 0], 1 / 540, false, TALL).at as Point, [0.4 + 1 / 540, 0.45])
    close(nudged(box, grip(box, 'move0,00'), [0, -1], 1 / 540, true, TALL).at as Point, [0.4, 0.45 - 10 / 960])
    expect(nudged(box, grip(box, 'turn0,00'), [1, 0], 1 / 540, true, TALL).turn).toBe(45)
  })
  it('is drawn to thirds by its middle or an upright edge, when near', () => {
    const upright = placed('box', { at: [0.4, 0.45], width: 0.5, height: 0.25 })
    const near = snapped(upright, [0.505, 0.7], TALL, 0.01)
    expect(near.to[0]).toBe(0.5)
    expect(near.across).toEqual([0.5])
    expect(near.down).toEqual([])
    close(snapped(upright, [0.586, 0.7], TALL, 0.01).to, [1 / 3 + 0.25, 0.7])
    expect(snapped(box, [0.586, 0.7], TALL, 0.01).across).toEqual([])
  })
})

describe('a picture that is fitted', () => {
  it.each([
    ['cover', [9, 16], [1, 16 / 9]],
    ['contain', [300, 100], [1, 1 / 3]],
    ['cover', [300, 100], [16 / 3, 16 / 9]],
    ['stretch', [300, 100], TALL],
    ['tile', [360, 72], [0.5, 0.1]],
    ['short', [100, 100], [1, 1]],
  ] as [string, Point, Point][])('%s of %j is %j', (how, picture, wanted) => {
    close(fitted(picture, TALL, how), wanted)
  })
  it('is not placed before its size is known', () => {
    const shape = { of: 'picture', fit: 'contain', fit_by: null }
    const asked = handle('box', { at: 'at', size: 'size' }, { shape } as never)
    expect(placing(asked, () => 1, TALL, null)).toBeNull()
    expect(placing(asked, (name) => (name === 'size' ? 0.5 : [0.5, 0.5]), TALL, [200, 100])?.half).toEqual([0.25, 0.125])
  })
})

describe('a circle', () => {
  const round = placed('circle', { at: [0.5, 0.5], radius: 0.3 })
  it('has the radius to where its edge is dragged', () => {
    const edge = grip(round, 'scale1,10')
    close(edge.at, [0.5, 0.3 + 8 / 9])
    expect(dragged(round, edge, drag(edge.at, [0, 0.1]), TALL).radius).toBeCloseTo(0.4, 6)
  })
  it('is grasped wherever its edge lies on the screen', () => {
    close(reachOf([0.5, 1.7], 0.3, TALL), [0.5, 1.4])
    close(reachOf([0.5, 0.5], 5, TALL), [0.5, 16 / 9 - 0.02])
  })
  it('of two widths is an ellipse', () => {
    const ellipse = placed('circle', { at: [0.5, 0.5], width: 0.8, height: 0.4 })
    expect(within(ellipse, [0.5 + 0.39, 8 / 9])).toBe(true)
    expect(within(ellipse, [0.5 + 0.3, 8 / 9 + 0.15])).toBe(false)
    const corner = grip(ellipse, 'scale1,10')
    const made = dragged(ellipse, corner, drag(corner.at, [0.1 * Math.SQRT1_2, 0]), TALL)
    expect([made.width, made.height]).toEqual([expect.closeTo(1, 6), expect.closeTo(0.4, 6)])
  })
})

describe('a ring', () => {
  it('told by radius and thickness keeps the edge that is not dragged', () => {
    const ring = placed('ring', { at: [0.5, 0.5], radius: 0.3, thickness: 0.1 })
    expect([ring.inner, ring.outer]).toEqual([expect.closeTo(0.25), expect.closeTo(0.35)])
    const made = dragged(ring, grip(ring, 'outer0,00'), { from: [0.5, 8 / 9 + 0.35], to: [0.5, 8 / 9 + 0.45], held: false }, TALL)
    expect([made.radius, made.thickness]).toEqual([expect.closeTo(0.35), expect.closeTo(0.2)])
  })
  it('of two edges has the one that is dragged', () => {
    const ring = placed('ring', { at: [0.5, 0.5], inner: 0.2, outer: 0.6 })
    expect(dragged(ring, grip(ring, 'inner0,00'), { from: [0.5, 8 / 9 + 0.2], to: [0.5, 8 / 9 + 0.1], held: false }, TALL)).toEqual({ inner: expect.closeTo(0.1) })
  })
})

describe('a line', () => {
  const line = placed('line', { start: [0.2, 0.5], end: [0.8, 0.5] })
  it('is dragged at an end, to a multiple of 15 degrees with Shift', () => {
    const end = grip(line, 'end0,01')
    close(dragged(line, end, drag(end.at, [0.1, 0.1]), TALL).end as Point, [0.9, 0.5 + 0.1 / (16 / 9)])
    const level = dragged(line, end, drag(end.at, [0.1, 0.05], true), TALL).end as Point
    expect(level[1]).toBeCloseTo(0.5, 6)
  })
  it('told by middle, length and turn keeps its other end', () => {
    const ramp = placed('line', { at: [0.5, 0.5], length: 0.8, turn: 0 })
    const end = grip(ramp, 'end0,01')
    close(end.at, [0.5, 8 / 9 + 0.4])
    const made = dragged(ramp, end, drag(end.at, [0, 0.2]), TALL)
    expect([made.length, made.turn]).toEqual([expect.closeTo(1), expect.closeTo(0)])
    close(made.at as Point, [0.5, (8 / 9 + 0.1) / (16 / 9)])
  })
})

describe('a path', () => {
  it.each(outlines)('through $points.length points is the spline', ({ points, line }) => {
    const path = placed('path', { path: { points, smooth: true } as never })
    outline(path).forEach((place, n) => close(place, [(line[n]?.[0] ?? NaN) + 0.5, (line[n]?.[1] ?? NaN) + 8 / 9]))
  })
  it('is moved as a whole, or by one of its points', () => {
    const path = placed('path', { path: { points: [[-0.2, -0.2], [0.2, -0.2], [0.2, 0.2]], smooth: false } as never }) // prettier-ignore
    expect(movedTo(path, [path.centre[0] + 0.1, path.centre[1]], TALL)).toEqual({ path: { smooth: false, points: [[-0.1, -0.2], [0.3, -0.2], [0.3, 0.2]] } }) // prettier-ignore
    const second = grip(path, 'point0,01')
    expect(dragged(path, second, drag(second.at, [0, 0.1]), TALL)).toEqual({ path: { smooth: false, points: [[-0.2, -0.2], [0.2, -0.1], [0.2, 0.2]] } }) // prettier-ignore
    expect(within(path, [0.6, 8 / 9 - 0.1])).toBe(true)
    expect(within(path, [0.4, 8 / 9 + 0.1])).toBe(false)
  })
})

it('what hangs on a face is moved in the units of what it hangs on', () => {
  const hung = handle('box', { right: 'right', up: 'up', size: 'wide', turn: 'turn' }, { anchor: 'pin' })
  const frame = { at: [0.5, 0.6] as Point, right: [0.02, 0.01] as Point, down: [-0.01, 0.02] as Point }
  const found = placing(hung, (name) => ({ right: 2, up: 3, wide: 10, turn: 0 })[name], TALL, [200, 100], frame)
  if (!found) throw new Error('nothing is placed')
  close(found.centre, [0.5 + 0.04 + 0.03, 0.6 + 0.02 - 0.06])
  const moved = movedTo(found, [0.5, 0.6], TALL)
  expect([moved.right, moved.up]).toEqual([expect.closeTo(0), expect.closeTo(0)])
  expect(placing(hung, () => 0, TALL, [1, 1], null)).toBeNull()
})
