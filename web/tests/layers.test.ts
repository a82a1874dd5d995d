/** Layers and groups as documents: sums that are typed, names, how numbers are shown, what may be driven, what stands together. */
import { describe, expect, it } from 'vitest'
import { group, holdTogether, moveGroup, runs, shows } from '../src/document/groups'
import {
  canBeDriven, driven, drivenParts, fitToControls, freshLayer, maskDrives, nameOf, nameOfFile, newLayer, ownLayer, scaleOf, sum, UNNAMED, weight,
} from '../src/document/layers' // prettier-ignore
import { catalogue, control, drive, effect, layer } from './made'

describe('a typed number', () => {
  it.each([
    ['50', 50],
    ['100/4+5', 30],
    ['(2+3)*4', 20],
    ['-5', -5],
    ['2*-3', -6],
    ['1,5', 1.5],
    ['.5', 0.5],
    [' 7 - 2 - 1 ', 4],
    ['8/4/2', 1],
    ['+3', 3],
  ])('%s is %d', (text, value) => expect(sum(text)).toBe(value))
  it.each(['', 'fifty', '1+', '2**3', '1/0', '(3', '3)', '1 2', '0/0', '--', 'e5'])('%j is none', (text) => expect(sum(text)).toBeNull())
})

describe('a name', () => {
  it('of an effect nobody named says its layers', () => {
    expect(nameOf([])).toBe(UNNAMED)
    expect(nameOf([layer('Glow')])).toBe('Glow')
    expect(nameOf([layer('Glow'), layer('Vignette')])).toBe('Glow and Vignette')
    expect(nameOf([layer('Glow'), layer('Vignette'), layer('Ripple'), layer('Tape')])).toBe('Glow, Vignette and 2 more')
    expect(nameOf([layer('x'.repeat(90)), layer('y')])).toHaveLength(80)
  })
  it.each([['amber-shore.cube', 'Amber shore'], ['tide_mark 2.PNG', 'Tide mark 2'], ['été.tar.gz', 'Été.tar']])('of a layer comes from %s', (file, name) => expect(nameOfFile(file)).toBe(name)) // prettier-ignore
})

describe('a control', () => {
  it.each([
    [{ unit: 'screen' }, { unit: '%', scale: 100, digits: 1 }],
    [{ unit: '', low: 0, high: 1 }, { unit: '%', scale: 100, digits: 1 }],
    [{ unit: '', low: 0, high: 1, type: 'whole' }, { unit: '', scale: 1, digits: 0 }],
    [{ unit: 'degrees', low: -180, high: 180 }, { unit: '°', scale: 1, digits: 1 }],
    [{ unit: 'seconds', low: 0, high: 5 }, { unit: 's', scale: 1, digits: 2 }],
    [{ unit: 'times', low: 0.5, high: 1 }, { unit: '×', scale: 1, digits: 3 }],
  ])('of %j is shown as %j', (facts, wanted) => expect(scaleOf(control('a', facts as never))).toEqual(wanted))

  const { types } = catalogue([])
  it('is driven where its type may be, and of a vector each part by itself', () => {
    expect(canBeDriven(control('a'), types)).toBe(true)
    expect(canBeDriven(control('a', { type: 'text' }), types)).toBe(false)
    expect(canBeDriven(control('a', { type: 'any', default: 0.5 }), types)).toBe(true)
    expect(canBeDriven(control('a', { type: 'any', default: null }), types)).toBe(false)
    expect(canBeDriven(undefined, types)).toBe(false)
    expect(drivenParts(control('at', { type: 'vec2', default: [0, 0] }), types).map((one) => one.name)).toEqual(['at.0', 'at.1'])
    expect(drivenParts(control('a', { type: 'text' }), types)).toEqual([])
  })
  it('that is gone from a recipe takes its value and drive along; numbers are held to the range of those that stay', () => {
    const made = layer('l', { values: { amount: 9, gone: 1, words: 'x' }, drives: { amount: drive('pulse'), gone: drive('pulse'), 'layer:opacity': drive('pulse'), 'mask:soft': drive('pulse') } })
    fitToControls(made, [control('amount', { low: 0, high: 2 }), control('words', { type: 'text' })], types)
    expect(made.values).toEqual({ amount: 2, words: 'x' })
    expect(Object.keys(made.drives)).toEqual(['amount', 'layer:opacity', 'mask:soft'])
  })
})

it('a drive is set and taken away with the others left', () => {
  const made = layer('Sand', { drives: { 'layer:on': drive('pulse') } })
  const [, { drives }] = driven(made, 'amount', 'Amount', drive('wander'))
  expect(Object.keys(drives)).toEqual(['layer:on', 'amount'])
  expect(Object.keys(driven(layer('Sand', { drives }), 'layer:on', 'Shown', null)[1].drives)).toEqual(['amount'])
  expect(Object.keys(maskDrives(layer('l', { drives: { amount: drive('a'), 'mask:soft': drive('a'), 'layer:mask': drive('a') } })))).toEqual(['mask:soft', 'layer:mask'])
})

it('a new layer starts as its kind does; a copy has an id of its own and shares nothing', () => {
  const kind = { kind: 'glow', name: 'Glow', help: '', family: '', also: [], controls: [], blend: 'screen', opacity: 0.6, settings: [], looks: [], handles: [] }
  const made = newLayer(kind as never, undefined, { amount: 1 })
  expect(made).toMatchObject({ name: 'Glow', kind: 'glow', blend: 'screen', opacity: 0.6, on: true, values: { amount: 1 } })
  const copy = freshLayer(made)
  expect(copy.id).not.toBe(made.id)
  copy.values.amount = 2
  expect(made.values.amount).toBe(1)
  expect(ownLayer().recipe?.result).toBe('below.out')
})

it.each([[999, '999 B'], [1000, '1 kB'], [82_400, '82 kB'], [1_390_000, '1.39 MB']])('%d bytes are %s', (bytes, words) => expect(weight(bytes)).toBe(words)) // prettier-ignore

describe('a group', () => {
  const ids = (draft: { layers: { id: string }[] }): string => draft.layers.map((one) => one.id).join('')
  const abcd = () => effect(['a', 'b', 'c', 'd'].map((id) => layer(id)))

  it('stands where its first layer stood', () => {
    const draft = abcd()
    const made = group(draft, ['b', 'd'])
    expect(ids(draft)).toBe('abdc')
    expect(runs(draft.layers, draft.groups).map((run) => [run.group?.id, run.layers.length])).toEqual([[undefined, 1], [made.id, 2], [undefined, 1]]) // prettier-ignore
  })
  it('is joined by a layer that is moved between two of it, and left by one that is moved away', () => {
    const draft = abcd()
    const made = group(draft, ['b', 'c'])
    draft.layers.splice(1, 0, ...draft.layers.splice(0, 1))
    holdTogether(draft, 'a')
    expect(ids(draft)).toBe('bacd')
    expect(draft.layers[1]?.group).toBe(made.id)
    draft.layers.push(...draft.layers.splice(1, 1))
    holdTogether(draft, 'a')
    expect(draft.layers.map((one) => one.group)).toEqual([made.id, made.id, null, null])
  })
  it('of two that are parted keeps the one that was not moved', () => {
    const draft = abcd()
    const made = group(draft, ['a', 'b'])
    draft.layers.push(...draft.layers.splice(0, 1))
    holdTogether(draft, 'a')
    expect(draft.layers.map((one) => one.group)).toEqual([made.id, null, null, null])
  })
  it('goes when nobody is in it', () => {
    const draft = abcd()
    group(draft, ['a'])
    draft.layers.splice(0, 1)
    holdTogether(draft)
    expect(draft.groups).toEqual([])
  })
  it('moves past its neighbours, groups whole, and not beyond the ends', () => {
    const draft = abcd()
    const first = group(draft, ['a', 'b'])
    group(draft, ['c', 'd'])
    moveGroup(draft, first.id, 1)
    expect(ids(draft)).toBe('cdab')
    moveGroup(draft, first.id, 1)
    expect(ids(draft)).toBe('cdab')
    moveGroup(draft, first.id, -1)
    expect(ids(draft)).toBe('abcd')
  })
  it('that is off leaves its layers out', () => {
    const draft = abcd()
    const made = group(draft, ['a'])
    expect(draft.layers.map((one) => shows(one, draft.groups))).toEqual([true, true, true, true])
    made.on = false
    expect(draft.layers.map((one) => shows(one, draft.groups))).toEqual([false, true, true, true])
  })
})
