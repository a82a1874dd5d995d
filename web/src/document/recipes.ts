/** Recipes as documents: what their nodes take and give, and every way of changing one. Nothing here shows anything. */
import type { Catalogue, Control, NodeKind, Plain, Recipe, RecipeNode } from '../api/types'
import { t } from '../words'

export const GROUP = 'group:'
/** The slip that stands for what a recipe gives: the layer's colour, or a group's outputs. */
export const RESULT = '-result-'

export const ends = (end: string): [string, string] => {
  const at = end.indexOf('.')
  return [end.slice(0, at), end.slice(at + 1)]
}

export function emptyRecipe(): Recipe {
  return {
    format: 'sun-glaze/recipe', version: 1, name: t('document.recipe'), help: '', family: '', also: [], sentence: '',
    nodes: [{ id: 'below', kind: 'below', name: '', set: {}, at: [40, 60], comment: '' }],
    wires: [], inputs: [], outputs: [], result: 'below.out', start: { blend: 'normal', opacity: 1 }, settings: [], looks: [], handles: [], groups: {},
  }
}

/** The recipe of a group node, on the way that `path` names; undefined where it has gone. */
export function within(recipe: Recipe, path: string[]): Recipe | undefined {
  let here: Recipe | undefined = recipe
  for (const id of path) {
    const kind: string = here?.nodes.find((node) => node.id === id)?.kind ?? ''
    here = here?.groups[kind.slice(GROUP.length)]
  }
  return here
}

export class Ports {
  private readonly kinds: Map<string, NodeKind>
  private readonly fits: Set<string>
  /** What there is to say of types, by name. */
  readonly types: Catalogue['types']

  constructor(catalogue: Catalogue) {
    this.kinds = new Map(catalogue.nodes.map((kind) => [kind.kind, kind]))
    this.types = catalogue.types
    this.fits = new Set(catalogue.conversions.map((one) => `${one.given}>${one.wanted}`))
  }

  kind(node: RecipeNode): NodeKind | undefined {
    return this.kinds.get(node.kind)
  }

  title(recipe: Recipe, node: RecipeNode): string {
    if (node.name) return node.name
    if (node.kind.startsWith(GROUP)) return recipe.groups[node.kind.slice(GROUP.length)]?.name ?? t('document.group2')
    return this.kind(node)?.title ?? node.kind
  }

  inputs(recipe: Recipe, node: RecipeNode): Control[] {
    if (!node.kind.startsWith(GROUP)) return this.kind(node)?.inputs ?? []
    const group = recipe.groups[node.kind.slice(GROUP.length)]
    return group ? this.controls(group) : []
  }

  outputs(recipe: Recipe, node: RecipeNode): { name: string; title: string; type: string }[] {
    if (!node.kind.startsWith(GROUP)) return this.kind(node)?.outputs ?? []
    const group = recipe.groups[node.kind.slice(GROUP.length)]
    return (group?.outputs ?? []).map((output) => {
      const [id, name] = ends(output.from)
      const inner = group?.nodes.find((one) => one.id === id)
      const found = inner && group ? this.outputs(group, inner).find((one) => one.name === name) : undefined
      return { name: output.id, title: words(output.id), type: found?.type ?? 'any' }
    })
  }

  /** The inputs of a recipe as controls: each looks like the first input it feeds, narrowed. */
  controls(recipe: Recipe): Control[] {
    return recipe.inputs.flatMap((input) => {
      const [id, name] = ends(input.to[0] ?? '')
      const node = recipe.nodes.find((one) => one.id === id)
      const port = node && this.inputs(recipe, node).find((one) => one.name === name)
      if (!port || !node) return []
      return [
        {
          ...port,
          name: input.id,
          title: input.title || words(input.id),
          low: input.low ?? port.low,
          high: input.high ?? port.high,
          step: input.step ?? port.step,
          also: input.also ?? {},
          driven: input.driven ?? false,
          unit: input.unit ?? port.unit,
          default: input.default ?? node.set[name] ?? port.default,
        },
      ]
    })
  }

  /** How wires of a type are drawn; nothing where it is set on the node and never wired. */
  wire(type: string): Catalogue['types'][string]['wire'] {
    return this.types[type]?.wire ?? 'single'
  }

  converts(given: string, wanted: string): boolean {
    if (given === wanted || given === 'any' || this.fits.has(`${given}>${wanted}`)) return true
    return wanted === 'any' && (this.types[given]?.any ?? false)
  }

  /** The type that leaves an output, as far as it can be told without recording. */
  typeOf(recipe: Recipe, end: string): string {
    const [id, name] = ends(end)
    const node = recipe.nodes.find((one) => one.id === id)
    return (node && this.outputs(recipe, node).find((one) => one.name === name)?.type) ?? 'any'
  }

  /** The first input of a kind of node that takes what is given, or nothing. */
  entrance(kind: NodeKind, given: string): string | undefined {
    const open = kind.inputs.filter((port) => this.wire(port.type) !== '')
    const exact = open.find((port) => port.type === given)
    return (exact ?? open.find((port) => this.converts(given, port.type)))?.name
  }
}

export const words = (id: string): string => {
  const text = id.replace(/[_-]+/g, ' ').trim()
  return text.charAt(0).toUpperCase() + text.slice(1)
}

function freeId(taken: Iterable<string>, wanted: string): string {
  const used = new Set(taken)
  const plain = wanted.replace(/[^A-Za-z0-9_-]+/g, '-').replace(/^-+|-+$/g, '').slice(0, 30) || 'node'
  if (!used.has(plain)) return plain
  for (let n = 2; ; n++) if (!used.has(`${plain}-${n}`)) return `${plain}-${n}`
}

export const freeNodeId = (recipe: Recipe, wanted: string) => freeId(recipe.nodes.map((node) => node.id), wanted)

export function addNode(recipe: Recipe, kind: string, at: [number, number]): RecipeNode {
  const node: RecipeNode = { id: freeNodeId(recipe, kind.replace(GROUP, '')), kind, name: '', set: {}, at: [at[0], at[1]], comment: '' }
  recipe.nodes.push(node)
  return node
}

/** Wire an output to an input, taking away what led there. The result's slip takes `RESULT.colour` or `RESULT.NAME`. */
export function connect(recipe: Recipe, from: string, to: string): void {
  const [id, name] = ends(to)
  if (id !== RESULT) {
    recipe.wires = recipe.wires.filter((wire) => wire.to !== to)
    recipe.wires.push({ from, to })
    return
  }
  const output = recipe.outputs.find((one) => one.id === name)
  if (output) output.from = from
  else if (name === 'more') recipe.outputs.push({ id: freeId(recipe.outputs.map((one) => one.id), 'out'), from })
  else recipe.result = from
}

export function disconnect(recipe: Recipe, to: string): void {
  const [id, name] = ends(to)
  if (id !== RESULT) recipe.wires = recipe.wires.filter((wire) => wire.to !== to)
  else if (name === 'colour') recipe.result = null
  else recipe.outputs = recipe.outputs.filter((one) => one.id !== name)
}

/** Take nodes away, with their wires and what they alone fed. */
export function removeNodes(recipe: Recipe, ids: Set<string>): void {
  const gone = (end: string) => ids.has(ends(end)[0])
  recipe.nodes = recipe.nodes.filter((node) => !ids.has(node.id))
  recipe.wires = recipe.wires.filter((wire) => !gone(wire.from) && !gone(wire.to))
  recipe.inputs = recipe.inputs.map((input) => ({ ...input, to: input.to.filter((end) => !gone(end)) })).filter((input) => input.to.length)
  recipe.outputs = recipe.outputs.filter((output) => !gone(output.from))
  if (recipe.result && gone(recipe.result)) recipe.result = null
}

/** What can be pasted elsewhere: nodes, the wires between them, and the groups that they stand for. */
export interface Cutting {
  sunGlaze: 'nodes'
  nodes: RecipeNode[]
  wires: Recipe['wires']
  groups: Recipe['groups']
}

export function cutting(recipe: Recipe, ids: Set<string>): Cutting {
  const nodes = recipe.nodes.filter((node) => ids.has(node.id))
  const used = new Set(nodes.filter((node) => node.kind.startsWith(GROUP)).map((node) => node.kind.slice(GROUP.length)))
  return structuredClone({
    sunGlaze: 'nodes',
    nodes,
    wires: recipe.wires.filter((wire) => ids.has(ends(wire.from)[0]) && ids.has(ends(wire.to)[0])),
    groups: Object.fromEntries(Object.entries(recipe.groups).filter(([id]) => used.has(id))),
  })
}

/** Put a cutting in, moved by `by`; the ids of the new nodes. */
export function paste(recipe: Recipe, given: Cutting, by: [number, number]): Set<string> {
  const renamed = new Map<string, string>()
  const groups = new Map<string, string>()
  for (const [id, group] of Object.entries(given.groups)) {
    const same = Object.entries(recipe.groups).find(([, one]) => JSON.stringify(one) === JSON.stringify(group))
    const name = same?.[0] ?? freeId(Object.keys(recipe.groups), id)
    if (!same) recipe.groups[name] = structuredClone(group)
    groups.set(id, name)
  }
  for (const node of given.nodes) {
    const id = freeNodeId(recipe, node.id)
    renamed.set(node.id, id)
    const group = node.kind.startsWith(GROUP) ? groups.get(node.kind.slice(GROUP.length)) : undefined
    const at: [number, number] = [node.at[0] + by[0], node.at[1] + by[1]]
    recipe.nodes.push({ ...structuredClone(node), id, at, kind: group ? `${GROUP}${group}` : node.kind })
  }
  const other = (end: string) => {
    const [id, name] = ends(end)
    return `${renamed.get(id)}.${name}`
  }
  for (const wire of given.wires) recipe.wires.push({ from: other(wire.from), to: other(wire.to) })
  return new Set(renamed.values())
}

/** Pack nodes into one: what leads in becomes its inputs, what leads out its outputs. The new node's id. */
export function pack(recipe: Recipe, ids: Set<string>, name: string): string {
  const inside = (end: string) => ids.has(ends(end)[0])
  const held = cutting(recipe, ids)
  const group: Recipe = { ...emptyRecipe(), name, nodes: held.nodes, wires: held.wires, groups: held.groups, result: null }
  const groupId = freeId(Object.keys(recipe.groups), name.toLowerCase())
  const middle = held.nodes.reduce<[number, number]>((sum, node) => [sum[0] + node.at[0], sum[1] + node.at[1]], [0, 0])
  const at: [number, number] = [middle[0] / held.nodes.length, middle[1] / held.nodes.length]
  const id = freeNodeId(recipe, name.toLowerCase())
  const wires = recipe.wires.filter((wire) => !inside(wire.from) && !inside(wire.to))
  const entrances = new Map<string, string>()
  for (const wire of recipe.wires.filter((one) => !inside(one.from) && inside(one.to))) {
    let input = entrances.get(wire.from)
    if (input) group.inputs.find((one) => one.id === input)?.to.push(wire.to)
    else {
      input = freeId(group.inputs.map((one) => one.id), ends(wire.to)[1])
      entrances.set(wire.from, input)
      group.inputs.push({ id: input, title: '', to: [wire.to], default: null, low: null, high: null, step: null, unit: null, also: {}, facts: {}, driven: false, template: null, help: '' })
      wires.push({ from: wire.from, to: `${id}.${input}` })
    }
  }
  const inputs = recipe.inputs.map((input) => {
    const taken = input.to.filter(inside)
    if (!taken.length) return input
    const own = freeId(group.inputs.map((one) => one.id), input.id)
    group.inputs.push({ ...input, id: own, to: taken })
    return { ...input, to: [...input.to.filter((end) => !inside(end)), `${id}.${own}`] }
  })
  const exits = new Map<string, string>()
  const exit = (from: string): string => {
    const known = exits.get(from) ?? freeId(exits.values(), ends(from)[1])
    exits.set(from, known)
    return `${id}.${known}`
  }
  for (const wire of recipe.wires.filter((one) => inside(one.from) && !inside(one.to))) wires.push({ from: exit(wire.from), to: wire.to })
  const outputs = recipe.outputs.map((output) => (inside(output.from) ? { ...output, from: exit(output.from) } : output))
  const result = recipe.result && inside(recipe.result) ? exit(recipe.result) : recipe.result
  if (!exits.size) for (const node of held.nodes.slice(-1)) exit(`${node.id}.out`)
  group.outputs = [...exits].map(([from, out]) => ({ id: out, from }))
  Object.assign(recipe, { wires, inputs, outputs, result })
  recipe.nodes = [...recipe.nodes.filter((node) => !ids.has(node.id)), { id, kind: `${GROUP}${groupId}`, name: '', set: {}, at, comment: '' }]
  const used = new Set(recipe.nodes.map((node) => node.kind))
  recipe.groups = { ...Object.fromEntries(Object.entries(recipe.groups).filter(([key]) => used.has(GROUP + key))), [groupId]: group }
  return id
}

/** Take a group apart again where it stands; the ids of what was in it. */
export function unpack(recipe: Recipe, id: string): Set<string> {
  const node = recipe.nodes.find((one) => one.id === id)
  const group = node && recipe.groups[node.kind.slice(GROUP.length)]
  if (!node || !group) return new Set()
  const left = Math.min(...group.nodes.map((one) => one.at[0]))
  const top = Math.min(...group.nodes.map((one) => one.at[1]))
  const before = new Set(recipe.nodes.map((one) => one.id))
  const given: Cutting = { sunGlaze: 'nodes', nodes: group.nodes, wires: group.wires, groups: group.groups }
  const fresh = paste(recipe, given, [node.at[0] - left, node.at[1] - top])
  // Ids are given in order, so the new name of each is at its place.
  const renamed = new Map(group.nodes.map((one, n) => [one.id, [...fresh][n] ?? one.id]))
  const inner = (end: string) => `${renamed.get(ends(end)[0])}.${ends(end)[1]}`
  for (const input of group.inputs) {
    const source = recipe.wires.find((wire) => wire.to === `${id}.${input.id}`)
    const set = node.set[input.id] ?? input.default
    const outer = recipe.inputs.find((one) => one.to.includes(`${id}.${input.id}`))
    for (const end of input.to.map(inner)) {
      if (source) recipe.wires.push({ from: source.from, to: end })
      else if (outer) outer.to.push(end)
      else if (set !== null && set !== undefined) setInput(recipe, end, set)
    }
  }
  const out = (end: string) => {
    const [owner, name] = ends(end)
    const found = owner === id ? group.outputs.find((one) => one.id === name) : undefined
    return found ? inner(found.from) : end
  }
  for (const wire of recipe.wires) wire.from = out(wire.from)
  for (const output of recipe.outputs) output.from = out(output.from)
  if (recipe.result) recipe.result = out(recipe.result)
  removeNodes(recipe, new Set([id]))
  const stillUsed = recipe.nodes.some((one) => one.kind === node.kind)
  if (!stillUsed) recipe.groups = Object.fromEntries(Object.entries(recipe.groups).filter(([key]) => GROUP + key !== node.kind))
  return new Set([...fresh].filter((one) => !before.has(one)))
}

/** A kept group, placed: its nodes come along under a key of their own. The new node. */
export function addGroup(recipe: Recipe, group: Recipe, at: [number, number]): RecipeNode {
  const same = Object.entries(recipe.groups).find(([, one]) => JSON.stringify(one) === JSON.stringify(group))
  const key = same?.[0] ?? freeId(Object.keys(recipe.groups), group.name.toLowerCase())
  recipe.groups[key] = same?.[1] ?? structuredClone(group)
  return addNode(recipe, GROUP + key, at)
}

export function setInput(recipe: Recipe, end: string, value: Plain): void {
  const [id, name] = ends(end)
  const node = recipe.nodes.find((one) => one.id === id)
  if (node) node.set[name] = value
}

/** Give an input to the outside as a control, or take it back. */
export function expose(recipe: Recipe, end: string): void {
  const [id, name] = ends(end)
  const known = recipe.inputs.find((input) => input.to.includes(end))
  if (known) {
    known.to = known.to.filter((one) => one !== end)
    recipe.inputs = recipe.inputs.filter((input) => input.to.length)
    return
  }
  const node = recipe.nodes.find((one) => one.id === id)
  const wanted = node?.name ? `${node.name} ${name}` : name
  const input = freeId(recipe.inputs.map((one) => one.id), wanted.toLowerCase())
  recipe.inputs.push({ id: input, title: words(wanted), to: [end], default: null, low: null, high: null, step: null, unit: null, also: {}, facts: {}, driven: false, template: null, help: '' })
}

/** Put a node into a wire: what came goes in, what it gives goes on. */
export function insertOn(recipe: Recipe, ports: Ports, to: string, kind: NodeKind): RecipeNode | null {
  const [target, name] = ends(to)
  const from = target === RESULT && name === 'colour' ? recipe.result : recipe.wires.find((wire) => wire.to === to)?.from
  const entrance = from && ports.entrance(kind, ports.typeOf(recipe, from))
  const out = kind.outputs[0]?.name
  if (!from || !entrance || !out) return null
  const a = recipe.nodes.find((node) => node.id === ends(from)[0])
  const b = recipe.nodes.find((node) => node.id === target)
  const right = b?.at ?? [(a?.at[0] ?? 0) + 440, a?.at[1] ?? 0]
  const node = addNode(recipe, kind.kind, [((a?.at[0] ?? 0) + right[0]) / 2, ((a?.at[1] ?? 0) + right[1]) / 2 + 30])
  connect(recipe, from, `${node.id}.${entrance}`)
  connect(recipe, `${node.id}.${out}`, to)
  return node
}
