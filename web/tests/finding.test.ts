/** Finding: effects by words, nodes by what they are called, a free place for what was found; sentences of what moves. */
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { found, sorted } from '../src/features/list/finding'
import { chosenOf, finds, free, inOrder } from '../src/features/recipe/finding'
import { firstOf, foundIn } from '../src/features/path/finding'
import { dialFits, endsFor, newCue, newDial, piecesOf, usersOf } from '../src/document/motions'
import { factsOf, playedOf, stemOf, withFiles } from '../src/document/material'
import { Ports } from '../src/document/recipes'
import type { Asset, DriveKind, LayerKind } from '../src/api/types'
import { catalogue, control, drive, effect, layer, node, nodeKind, recipe, state } from './made'
import layers from '../../tests/shared/layers.json'

describe('effects', () => {
  const all = [
    state(1, effect([layer('Été rim')], { name: 'Pier 07' }), { weight: 30 }),
    state(2, effect([], { name: 'Pier 10' }), { weight: 10 }),
    state(3, effect([], { name: 'Ångström' }), { weight: 20 }),
  ]
  const names = (some: typeof all) => some.map((one) => one.effect.name)
  it.each([['ete', ['Pier 07']], ['PIER rim', ['Pier 07']], ['pier', ['Pier 07', 'Pier 10']], ['pier nobody', []], ['angstrom', ['Ångström']], ['', ['Pier 07', 'Pier 10', 'Ångström']]])('are found by %j', (words, wanted) => expect(names(found(all, words))).toEqual(wanted)) // prettier-ignore
  it('are sorted by change, name and weight', () => {
    expect(names(sorted(all, 'changed'))).toEqual(['Ångström', 'Pier 10', 'Pier 07'])
    expect(names(sorted(all, 'name'))).toEqual(['Ångström', 'Pier 07', 'Pier 10'])
    expect(names(sorted(all, 'weight'))).toEqual(['Pier 07', 'Ångström', 'Pier 10'])
  })
})

describe('layers', () => {
  const kinds = layers as unknown as LayerKind[]
  it.each([
    ['bloom', 'glow'],
    ['duotone', 'two-colour-map'],
    ['channel shift', 'colour-fringes'],
    ['sepia', 'two-colour-map'],
    ['keying', 'cut-out'],
    ['old film', 'dust'],
    ['halftone', 'cells'],
    ['lut', 'lookup-grade'],
    ['vignette', 'vignette'],
    ['film gr', 'film-grain'],
  ])('called %j by people: Enter takes %s', (words, kind) => expect(firstOf(foundIn(kinds, words), words)?.kind).toBe(kind))
  it('that nobody calls so are none', () => expect(foundIn(kinds, 'sun dial')).toEqual([]))
  it('stand in their families, all of them where nothing is typed', () => {
    const all = foundIn(kinds, '')
    expect(all[0]?.name).toBe('Grade')
    expect(all.flatMap((family) => family.kinds)).toHaveLength(kinds.length)
    for (const { name, kinds: some } of all) expect(some.every((kind) => kind.family === name)).toBe(true)
  })
})

describe('nodes', () => {
  const modes = ['normal', 'multiply', 'screen', 'overlay', 'soft-light']
  const blend = nodeKind('blend', [control('below', { type: 'colour' }), control('mode', { type: 'text', choices: modes })])
  const wave = nodeKind('wave', [control('amount')])
  const ports = new Ports(catalogue([blend, wave]))
  beforeEach(() => {
    const kept = new Map<string, string>()
    vi.stubGlobal('localStorage', { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, value: string) => kept.set(key, value) })
  })

  it('are found by their choices where there are many', () => {
    expect(finds(blend).map((one) => one.title)).toEqual(['Blend', 'Normal', 'Multiply', 'Screen', 'Overlay', 'Soft light'])
    expect(finds(nodeKind('few', [control('how', { choices: ['a', 'b'] })]))).toHaveLength(1)
    expect(chosenOf('blend|mode=overlay')).toEqual(['blend', { mode: 'overlay' }])
    expect(chosenOf('wave')).toEqual(['wave', {}])
  })
  it('come in the order of last use, then of what takes what is given', () => {
    const items = [...finds(blend).slice(0, 1), ...finds(wave)]
    expect(inOrder(items, ports, undefined).map((one) => one.id)).toEqual(['blend', 'wave'])
    expect(inOrder(items, ports, 'number').map((one) => one.id)).toEqual(['wave', 'blend'])
    chosenOf('blend')
    expect(inOrder(items, ports, 'number').map((one) => one.id)).toEqual(['blend', 'wave'])
  })
  it('land beside others, and not on a wire', () => {
    const all = recipe([node('below', 'below', [40, 60]), node('far', 'invert', [740, 60])], ['below.out > far.colour'])
    const [x, y] = free(all, [40, 60], [0, 0])
    expect(x).toBe(270)
    // The wire runs level, 60 below the upper edges of both.
    expect(y > 60 + 60 || y + 110 < 60 + 60).toBe(true)
    expect(free(all, undefined, [300, 500])).toEqual([300, 500])
    expect(free(all, undefined, [700, 100])[1]).toBeGreaterThanOrEqual(190)
  })
})

describe('what moves', () => {
  it('is said in a sentence whose words are its controls', () => {
    const stands = (name: string) => ({ how: 'each time', count: 2 })[name] ?? null
    expect(piecesOf('goes from {low} to {high}', stands)).toEqual(['goes from ', { control: 'low' }, ' to ', { control: 'high' }])
    expect(piecesOf('when [how=each time:it fires {count} times][how!=each time:it holds]', stands)).toEqual(['when it fires ', { control: 'count' }, ' times'])
    expect(piecesOf('[count>=2:{second}][count>=3:{third}]', stands)).toEqual([{ control: 'second' }])
  })
  it('starts round where the control stands, from there to its other end by cues and dials', () => {
    const kind = (family: string) => ({ family, controls: ['low', 'high'].map((name) => control(name, { driven: true })) }) as unknown as DriveKind
    const amount = control('amount', { low: 0, high: 1 })
    expect(endsFor(kind('motion'), amount, 0.5)).toEqual([['low', 0.375], ['high', 0.625]]) // prettier-ignore
    expect(endsFor(kind('motion'), amount, 1)).toEqual([['low', 0.875], ['high', 1]]) // prettier-ignore
    expect(endsFor(kind('cue'), amount, 0.9)).toEqual([['low', 0.9], ['high', 0]]) // prettier-ignore
    expect(endsFor(kind('dial'), amount, 0.3)).toEqual([['low', 0], ['high', 1]]) // prettier-ignore
    expect(endsFor(kind('cue'), control('free'), 3)).toEqual([['low', 3], ['high', 4]]) // prettier-ignore
  })
  it('names new cues and dials apart', () => {
    const draft = effect()
    const tap = { kind: 'tap', name: 'Tap', start: { threshold: 1 } } as unknown as DriveKind
    draft.cues.push(newCue(draft, tap))
    draft.cues.push(newCue(draft, tap))
    expect(draft.cues.map((one) => one.name)).toEqual(['Tap', 'Tap 2'])
    expect(draft.cues[0]?.id).toBe('tap')
    expect(draft.cues[1]?.id).not.toBe('tap')
    draft.dials.push(newDial(draft, 'colour', 'Hue') as never)
    draft.dials.push(newDial(draft, 'number', 'Hue', 0.2) as never)
    expect(draft.dials.map((one) => [one.title, one.start])).toEqual([['Hue', '#ffffff'], ['Hue 2', 0.2]]) // prettier-ignore
  })
  it('is known by its users, and by which dial may turn it', () => {
    const draft = effect([layer('Sand', { drives: { 'layer:on': drive('cued-switch', { cue: 'tap' }) }, values: { loop: { asset: 'a', rate: 1, cue: 'tap' } as never } })])
    expect(usersOf(draft, 'cue', 'tap')).toEqual(['Sand', 'Sand: on'])
    expect(usersOf(draft, 'dial', 'tap')).toEqual([])
    const number = newDial(draft, 'number', 'a')
    const choice = newDial(draft, 'choice', 'b')
    expect([dialFits('dial', number), dialFits('dial', choice), dialFits('dial-steps', choice), dialFits('dial-colour', number)]).toEqual([true, false, true, false])
  })
})

describe('material', () => {
  it('of one name but for a number is one sequence', () => {
    expect(['rain_001.png', 'rain_002.PNG', 'rain.png', 'rain_1.txt'].map(stemOf)).toEqual(['rain_#', 'rain_#', null, null])
  })
  it('is replaced wherever it is used, and keeps how it is played', () => {
    const draft = effect([
      layer('a', { values: { picture: 'old', loop: { asset: 'old', rate: 12, order: 'once', shift: 0 } as never }, mask: { kind: 'drawn', values: { by: 'old' } } }),
      layer('b', { kind: 'own', recipe: recipe([node('p', 'picture', [0, 0], { picture: 'old' })]) }),
    ])
    withFiles(draft, new Map([['old', 'new']]))
    expect(draft.layers[0]?.values).toEqual({ picture: 'new', loop: { asset: 'new', rate: 12, order: 'once', shift: 0 } })
    expect(draft.layers[0]?.mask?.values).toEqual({ by: 'new' })
    expect(draft.layers[1]?.recipe?.nodes[0]?.set).toEqual({ picture: 'new' })
    expect(playedOf(draft.layers[0]?.values.loop)).toEqual({ asset: 'new', rate: 12, order: 'once', shift: 0, cue: null })
  })
  it('tells other controls its facts', () => {
    expect(factsOf({ picture: { width: 9, height: 9, across: 6, down: 3 } } as unknown as Asset, { glints: 'across', rows: 'down', none: 'size' })).toEqual({ glints: 6, rows: 3 })
    expect(factsOf(undefined, { glints: 'across' })).toEqual({})
  })
})
