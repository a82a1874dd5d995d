/** Addresses as core/effect/address.py reads them, on shared cases. */
import { expect, it } from 'vitest'
import { address, uniformOf } from '../src/document/address'
import { assign } from '../src/document/layers'
import { assignMotion } from '../src/document/motions'
import cases from '../../tests/shared/addresses.json'
import { drive, effect, layer, node, recipe } from './made'

it.each(cases)('$text is read as Python reads it', ({ text, uniform, ...wanted }) => {
  expect(address('l', text)).toEqual(wanted)
  expect(uniformOf(address('l', text))).toBe(uniform)
})

it('sets what lies at each address of a layer, and nothing else', () => {
  const made = layer('l', {
    kind: 'own',
    mask: { kind: 'circle', values: {} },
    drives: { 'layer:opacity': drive('pulse') },
    recipe: recipe([node('noise', 'noise')]),
  })
  assign(made, 'layer:opacity', 0.25)
  assign(made, 'opacity', 0.5)
  assign(made, 'mask:opacity', 0.75)
  assign(made, 'drive:layer:opacity:low', 0.125)
  assign(made, 'noise.opacity', 0.0625)
  expect(made.opacity).toBe(0.25)
  expect(made.values).toEqual({ opacity: 0.5 })
  expect(made.mask?.values).toEqual({ opacity: 0.75 })
  expect(made.drives['layer:opacity']?.values).toEqual({ low: 0.125 })
  expect(made.recipe?.nodes[0]?.set).toEqual({ opacity: 0.0625 })
})

it('passes over a mask, a drive or a node that is not there', () => {
  const made = layer('l')
  for (const text of ['mask:width', 'drive:amount:low']) assign(made, text, 1)
  expect(made).toEqual(layer('l'))
})

it('sets cues, dials and what drives a group', () => {
  const draft = effect([], {
    cues: [{ id: 'tap', name: 'Tap', kind: 'tap', values: {}, recipe: null }],
    dials: [{ id: 'much', title: 'Much', kind: 'number', start: 0.5, low: 0, high: 1, unit: '', choices: [] }],
    groups: [{ id: 'g', name: 'Tide', on: true, drives: { 'layer:on': drive('cued-switch') } }],
  } as never)
  expect(assignMotion(draft, '', 'cue:tap:threshold', 0.3)).toBe(true)
  expect(assignMotion(draft, '', 'dial:much:start', 0.9)).toBe(true)
  expect(assignMotion(draft, 'g', 'drive:layer:on:high', 0.5)).toBe(true)
  expect([draft.cues[0]?.values.threshold, draft.dials[0]?.start, draft.groups[0]?.drives['layer:on']?.values.high]).toEqual([0.3, 0.9, 0.5])
  for (const [holder, text] of [['', 'cue:press:band'], ['', 'dial:hue:start'], ['h', 'drive:layer:on:high'], ['g', 'amount']] as const) expect(assignMotion(draft, holder, text, 1)).toBe(false) // prettier-ignore
})
