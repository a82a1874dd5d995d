/** Small documents for tests: what is not said of them is as the server sends it. */
import type { Catalogue, Control, Drive, Effect, EffectState, Handle, Layer, NodeKind, Recipe, RecipeNode } from '../src/api/types'
import { emptyRecipe } from '../src/document/recipes'

export function layer(id: string, more: Partial<Layer> = {}): Layer {
  const plain: Layer = {
    id, name: id, kind: 'fill', on: true, blend: 'normal', opacity: 1, light: 'display', values: {}, recipe: null, mask: null, drives: {}, group: null,
  } // prettier-ignore
  return { ...plain, ...more }
}

export function effect(layers: Layer[] = [], more: Partial<Effect> = {}): Effect {
  const plain = { format: 'sun-glaze/effect', version: 2, name: 'Ferry crossing', still: null, seed: 0, layers, groups: [], cues: [], dials: [], rehearsal: null }
  return { ...plain, ...more } as unknown as Effect
}

export function drive(kind: string, values: Drive['values'] = {}): Drive {
  return { kind, values, recipe: null } as Drive
}

export function control(name: string, more: Partial<Control> = {}): Control {
  const plain = { name, title: name, type: 'number', unit: '', low: null, high: null, step: null, default: 0, choices: [], help: '', also: {}, facts: {}, driven: false, template: null }
  return { ...plain, ...more } as Control
}

export function handle(kind: Handle['kind'], moves: Record<string, string>, more: Partial<Handle> = {}): Handle {
  return { kind, title: 'Mask', moves, when: {}, origin: [0, 0], corner: false, side: null, shape: null, anchor: null, ...more } as Handle
}

export function node(id: string, kind: string, at: [number, number] = [0, 0], set: RecipeNode['set'] = {}): RecipeNode {
  return { id, kind, name: '', set, at, comment: '' }
}

/** `wires` are written `from.out > to.in`. */
export function recipe(nodes: RecipeNode[], wires: string[] = [], more: Partial<Recipe> = {}): Recipe {
  const ends = wires.map((wire) => wire.split(' > ')).map(([from = '', to = '']) => ({ from, to }))
  return { ...emptyRecipe(), nodes, wires: ends, result: null, ...more }
}

export function nodeKind(kind: string, inputs: Control[], outputs: [string, string][] = [['out', 'colour']]): NodeKind {
  const given = outputs.map(([name, type]) => ({ name, title: name, type }))
  return { kind, title: kind.charAt(0).toUpperCase() + kind.slice(1), family: 'maths', help: '', inputs, outputs: given, handles: [], also: [] } as unknown as NodeKind
}

/** Types of three kinds: colours and numbers are wired, texts are set on the node. */
export function catalogue(nodes: NodeKind[], more: Partial<Catalogue> = {}): Catalogue {
  const type = (wire: string, any: boolean, driven: boolean) => ({ wire, any, driven })
  const types = { colour: type('double', true, false), number: type('single', true, true), picture: type('ribbon', false, false), text: type('', false, false), any: type('single', true, false) }
  const conversions = [{ given: 'number', wanted: 'colour' }, { given: 'colour', wanted: 'picture' }] // prettier-ignore
  return { nodes, types, conversions, layers: [], masks: [], drives: [], cues: [], ...more } as unknown as Catalogue
}

export function state(revision: number, shown: Effect, more: Partial<EffectState> = {}): EffectState {
  const plain = { id: 'e', revision, effect: shown, undo: null, redo: null, changed: new Date(revision * 1000).toISOString(), weight: 0, problems: [] }
  return { ...plain, ...more } as EffectState
}
