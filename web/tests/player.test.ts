/** What pages with a player keep by themselves: rehearsals as core/moment/rehearsal.py has them, dials, the beat. */
import { describe, expect, it } from 'vitest'
import { dialsOf, endsOf, numbersOf, type Dial } from '../src/engine/dials'
import { quietMoment } from '../src/engine/moment'
import { renewed } from '../src/engine/older'
import type { Program } from '../src/engine/player'
import { Signals } from '../src/engine/signals'
import { Pace } from '../src/engine/pace'
import { Rehearsal, type RehearsalData } from '../src/engine/rehearsal'
import cases from '../../tests/shared/rehearsals.json'

describe('a rehearsal', () => {
  it.each(cases)('plays as in Python, frame by frame', ({ rehearsal, moments }) => {
    const read = Rehearsal.read(rehearsal as unknown as RehearsalData)
    moments.forEach((wanted, frame) => {
      const { touch, cues, dials, clock } = read.at(quietMoment(frame, 9, 16))
      expect({ touch, cues, dials, seed: clock.seed }, `frame ${frame}`).toEqual(wanted)
    })
  })
  it('holds a tap within a frame for one frame, and the last place of a finger that moves', () => {
    const made = new Rehearsal()
    made.record(5, { touch: { down: true, u: 0.1, v: 0.2 } })
    made.record(5, { touch: { down: false, u: 0.1, v: 0.2 } })
    for (const u of [0.2, 0.3, 0.4]) made.record(9, { touch: { down: true, u, v: 0.2 } })
    const at = (frame: number) => made.at(quietMoment(frame, 9, 16)).touch
    expect([4, 5, 6, 7].map((frame) => at(frame).down)).toEqual([false, true, false, false])
    expect([at(9).u, at(9).taps]).toEqual([0.4, 2])
  })
  it('counts cues once, dials from then on, and what comes late from the last frame', () => {
    const made = new Rehearsal()
    made.record(3, { cues: ['smile'] })
    made.record(3, { dials: { size: 0.5 } })
    made.record(2, { cues: ['tap'] })
    const at = (frame: number) => made.at(quietMoment(frame, 9, 16))
    expect([2, 3, 4].map((frame) => at(frame).cues)).toEqual([[], ['smile', 'tap'], []])
    expect([2, 3, 4].map((frame) => at(frame).dials.size)).toEqual([undefined, 0.5, 0.5])
  })
  it('forgets what lies behind a frame that the clock went back to', () => {
    const made = new Rehearsal()
    for (const frame of [1, 5, 9]) made.record(frame, { dials: { size: frame } })
    made.rewind(5)
    expect(made.write().steps?.map((step) => step.frame)).toEqual([1, 5])
    expect(made.at(quietMoment(20, 9, 16)).dials.size).toBe(5)
  })
})

describe('a program of long ago', () => {
  const steps = [['uniform', 'time'], ['uniform', 'frame.width'], ['uniform', 'amount'], ['add', 0, 2]]
  const of = (version: number) => ({ version, signals: { steps, outputs: [3], kinds: ['float'] } }) as unknown as Program

  it('reads clock and screen of moments', () => {
    expect(renewed(of(3)).signals.steps).toEqual([['moment', 'time'], ['moment', 'width'], ['uniform', 'amount'], ['add', 0, 2]])
    const signals = new Signals(renewed(of(3)).signals)
    expect(signals.at(quietMoment(60, 9, 16), { amount: 5 })).toEqual([7])
  })
  it('of today stays as it is', () => {
    const now = of(4)
    expect(renewed(now)).toBe(now)
  })
})

describe('a dial', () => {
  const dial = (kind: Dial['kind'], more: Partial<Dial> = {}): Dial => ({ id: 'd', title: 'D', kind, start: 0, low: 0, high: 10, unit: 'x', choices: [], ...more })
  const choice = dial('choice', { choices: ['Dawn', 'Noon', 'Dusk'] })

  it('is the moment’s numbers, 0 to 1', () => {
    expect(numbersOf(dial('number'), 0.3)).toEqual({ d: 0.3 })
    expect(numbersOf(choice, 1)).toEqual({ d: 0.5 })
    expect(numbersOf(dial('colour'), '#ff0033')).toEqual({ 'd-r': 1, 'd-g': 0, 'd-b': 0.2 })
    expect(numbersOf(dial('photo'), 0)).toEqual({})
  })
  it('has two ends', () => {
    expect([endsOf(dial('number')), endsOf(choice), endsOf(dial('switch')), endsOf(dial('colour'))]).toEqual([[0, 1], [0, 2], [0, 1], ['#000000', '#ffffff']]) // prettier-ignore
  })
  it('of a photo is among the first three where the effect asks for one, and nowhere else', () => {
    const four = ['a', 'b', 'c', 'd'].map((id) => dial('number', { id }))
    expect(dialsOf(four, true, 'Your photo').map((one) => one.id)).toEqual(['a', 'b', 'photo', 'c', 'd'])
    expect(dialsOf([dial('photo', { id: 'own' })], false, 'Your photo')).toEqual([])
    expect(dialsOf([dial('photo', { id: 'own' })], true, 'Your photo').map((one) => one.id)).toEqual(['own'])
  })
})

describe('the beat', () => {
  function span(pace: Pace, rate: number, from: number): number {
    // A picture more than two seconds hold, so that the last of them is over.
    let now = from
    for (const end = now + 2000 + 1500 / rate; now < end; now += 1000 / rate) pace.drawn(now)
    return now
  }
  it('takes a smaller picture below 24 a second, a larger one above 50, and one that was given up twice never again', () => {
    const pace = new Pace()
    let now = 1
    const shares = [12, 60, 12, 60, 60].map((rate) => {
      now = span(pace, rate, now)
      return pace.share
    })
    expect(shares).toEqual([0.75, 1, 0.75, 0.75, 0.75])
  })
  it('goes no farther than three eighths, and does not count the time that a page was hidden', () => {
    const pace = new Pace()
    let now = 1
    for (let n = 0; n < 6; n++) now = span(pace, 5, now)
    expect(pace.share).toBe(0.375)
    const other = new Pace()
    now = span(other, 60, 1)
    other.drawn(now + 20_000)
    span(other, 60, now + 20_000)
    expect(other.share).toBe(1)
  })
})
