/** Recipes: wired, mended, grouped, taken apart, exposed; what their nodes take and give. */
import { describe, expect, it } from 'vitest'
import type { Recipe } from '../src/api/types'
import {
  addGroup, addNode, connect, cutting, disconnect, expose, insertOn, pack, paste, Ports, removeNodes, RESULT, unpack, within,
} from '../src/document/recipes' // prettier-ignore
import { tidied } from '../src/document/tidy'
import { catalogue, control, node, nodeKind, recipe } from './made'

const COLOURED = [control('a', { type: 'colour' }), control('b', { type: 'number', default: 0.5, low: 0, high: 2 })]
const KINDS = catalogue([
  nodeKind('below', []),
  nodeKind('multiply', COLOURED),
  nodeKind('add', COLOURED),
  nodeKind('edges', [control('picture', { type: 'picture' }), control('mode', { type: 'text' })], [['strength', 'number']]),
])
const ports = new Ports(KINDS)

/** The camera halved, then a quarter added. */
const chain = (): Recipe =>
  recipe([node('below', 'below'), node('half', 'multiply', [300, 60], { b: 0.5 }), node('more', 'add', [520, 60], { b: 0.25 })], ['below.out > half.a', 'half.out > more.a'], {
    result: 'more.out',
  })
const wires = (one: Recipe): string[] => one.wires.map(({ from, to }) => `${from} > ${to}`).sort()

describe('a wire', () => {
  it('takes the place of what led there before', () => {
    const made = chain()
    connect(made, 'below.out', 'more.a')
    expect(wires(made)).toEqual(['below.out > half.a', 'below.out > more.a'])
    disconnect(made, 'more.a')
    expect(wires(made)).toEqual(['below.out > half.a'])
  })
  it('to what the recipe gives sets that', () => {
    const made = chain()
    connect(made, 'half.out', `${RESULT}.colour`)
    expect(made.result).toBe('half.out')
    connect(made, 'below.out', `${RESULT}.more`)
    connect(made, 'more.out', `${RESULT}.more`)
    expect(made.outputs).toEqual([{ id: 'out', from: 'below.out' }, { id: 'out-2', from: 'more.out' }]) // prettier-ignore
    connect(made, 'half.out', `${RESULT}.out`)
    disconnect(made, `${RESULT}.out-2`)
    expect(made.outputs).toEqual([{ id: 'out', from: 'half.out' }])
    disconnect(made, `${RESULT}.colour`)
    expect(made.result).toBeNull()
  })
  it('takes a node in between, where that fits', () => {
    const made = chain()
    const between = insertOn(made, ports, 'more.a', KINDS.nodes[1] as never)
    expect(wires(made)).toEqual(['below.out > half.a', 'half.out > multiply.a', 'multiply.out > more.a'])
    expect(between?.at).toEqual([410, 90])
    expect(insertOn(made, ports, 'more.b', KINDS.nodes[1] as never)).toBeNull()
  })
})

describe('a node', () => {
  it('that is taken away takes along its wires, and controls and outputs that were its alone', () => {
    const made = chain()
    expose(made, 'half.b')
    expose(made, 'more.b')
    made.outputs.push({ id: 'out', from: 'more.out' })
    removeNodes(made, new Set(['more']))
    expect(wires(made)).toEqual(['below.out > half.a'])
    expect(made.inputs.map((input) => input.to)).toEqual([['half.b']])
    expect([made.outputs, made.result]).toEqual([[], null])
  })
  it('gets an id of its own', () => {
    const made = chain()
    expect([addNode(made, 'add', [0, 0]).id, addNode(made, 'add', [0, 0]).id, addNode(made, 'group:a b', [0, 0]).id]).toEqual(['add', 'add-2', 'a-b'])
  })
  it('is pasted with the wires among what was copied, elsewhere under other ids', () => {
    const made = chain()
    const fresh = paste(made, cutting(made, new Set(['half', 'more'])), [10, 20])
    expect([...fresh]).toEqual(['half-2', 'more-2'])
    expect(wires(made)).toContain('half-2.out > more-2.a')
    expect(made.nodes.find((one) => one.id === 'half-2')).toMatchObject({ at: [310, 80], set: { b: 0.5 } })
  })
})

describe('an input', () => {
  it('becomes a control, as the first that it feeds but narrowed, and is taken back', () => {
    const made = chain()
    expose(made, 'half.b')
    Object.assign(made.inputs[0] as object, { title: 'How much', high: 1 })
    expect(ports.controls(made)).toEqual([{ ...COLOURED[1], name: 'b', title: 'How much', high: 1, default: 0.5 }])
    expose(made, 'half.b')
    expect(made.inputs).toEqual([])
  })
  it('takes what fits, exactly before by conversion, and never what is only set', () => {
    expect(ports.converts('number', 'colour')).toBe(true)
    expect(ports.converts('picture', 'colour')).toBe(false)
    expect(ports.converts('any', 'picture')).toBe(true)
    expect(ports.entrance(KINDS.nodes[1] as never, 'number')).toBe('b')
    expect(ports.entrance(KINDS.nodes[3] as never, 'colour')).toBe('picture')
    expect(ports.entrance(KINDS.nodes[3] as never, 'text')).toBeUndefined()
  })
})

describe('a group', () => {
  it('has an input for each thing that leads in, and an output for each that leads out', () => {
    const made = chain()
    const id = pack(made, new Set(['half', 'more']), 'Dim')
    expect(made.nodes.map((one) => one.kind)).toEqual(['below', 'group:dim'])
    expect(wires(made)).toEqual([`below.out > ${id}.a`])
    expect(made.result).toBe(`${id}.out`)
    const inner = within(made, [id])
    expect(inner?.nodes.map((one) => one.id)).toEqual(['half', 'more'])
    expect(inner?.inputs.map((input) => input.to)).toEqual([['half.a']])
    expect(inner?.outputs).toEqual([{ id: 'out', from: 'more.out' }])
    expect(ports.outputs(made, made.nodes[1] as never)).toEqual([{ name: 'out', title: 'Out', type: 'colour' }])
    expect(ports.inputs(made, made.nodes[1] as never).map((one) => one.name)).toEqual(['a'])
  })
  it('feeds two places inside from one that led to both', () => {
    const made = chain()
    connect(made, 'below.out', 'more.b')
    const id = pack(made, new Set(['half', 'more']), 'Dim')
    expect(within(made, [id])?.inputs.map((input) => input.to)).toEqual([['half.a', 'more.b']])
  })
  it('keeps what was exposed, through it', () => {
    const made = chain()
    expose(made, 'half.b')
    const id = pack(made, new Set(['half']), 'Dim')
    expect(made.inputs[0]?.to).toEqual([`${id}.b`])
    expect(ports.controls(made)[0]).toMatchObject({ name: 'b', default: 0.5, high: 2 })
  })
  it('taken apart is what was packed', () => {
    const made = chain()
    const before = chain()
    const fresh = unpack(made, pack(made, new Set(['half', 'more']), 'Dim'))
    expect([...fresh]).toEqual(['half', 'more'])
    expect(wires(made)).toEqual(wires(before))
    expect([made.result, made.groups]).toEqual([before.result, {}])
    expect(made.nodes.map((one) => [one.id, one.set])).toEqual(before.nodes.map((one) => [one.id, one.set]))
  })
  it('taken apart leaves behind what stood on its inputs', () => {
    const made = chain()
    expose(made, 'half.b')
    const id = pack(made, new Set(['half']), 'Dim')
    made.inputs = []
    Object.assign(made.nodes.find((one) => one.id === id) as object, { set: { b: 0.75 } })
    unpack(made, id)
    expect(made.nodes.find((one) => one.id === 'half')?.set).toEqual({ b: 0.75 })
  })
  it('lies in a group, and stands twice as one definition', () => {
    const made = chain()
    const inner = pack(made, new Set(['half']), 'Dim')
    const outer = pack(made, new Set([inner]), 'Dim')
    expect(within(made, [outer, inner])?.nodes[0]?.id).toBe('half')
    const twice = paste(made, cutting(made, new Set([outer])), [0, 200])
    expect(Object.keys(made.groups)).toEqual(['dim-2'])
    const other = recipe([node('below', 'below')])
    paste(other, cutting(made, twice), [0, 0])
    expect(other.groups['dim-2']?.groups.dim?.nodes[0]?.id).toBe('half')
  })
  it('that was kept is placed with its nodes, and the second time as the same', () => {
    const made = recipe([node('below', 'below')])
    const kept = recipe([node('m', 'multiply', [0, 0], { b: 0.25 })], [], { name: 'Lantern dim', inputs: [], outputs: [{ id: 'out', from: 'm.out' }] })
    expect(addGroup(made, kept, [1, 2]).kind).toBe('group:lantern-dim')
    expect(addGroup(made, structuredClone(kept), [3, 4]).kind).toBe('group:lantern-dim')
    expect(Object.keys(made.groups)).toEqual(['lantern-dim'])
  })
})

it('tidied nodes stand from left to right as they need each other, none on another', () => {
  const made = chain()
  const at = tidied(made, () => ({ width: 170, height: 110 }))
  const xs = ['below', 'half', 'more'].map((id) => at.get(id)?.[0] ?? NaN)
  expect(xs[1]).toBeGreaterThan((xs[0] ?? 0) + 170)
  expect(xs[2]).toBeGreaterThan((xs[1] ?? 0) + 170)
})
