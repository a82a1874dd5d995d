/** Layers as an artist meets them: their words, how new ones start, and the small sums that number fields take. */
import type { Control, Layer, LayerKind, LookupRef, Plain } from '../api/types'

/** Blend modes by what they do, with the words shown. */
export const BLEND_GROUPS: { title: string; modes: [string, string][] }[] = [
  { title: 'Plain', modes: [['normal', 'Normal']] },
  {
    title: 'Darker',
    modes: [
      ['darken', 'Darken'],
      ['multiply', 'Multiply'],
      ['color-burn', 'Colour burn'],
      ['subtract', 'Subtract'],
    ],
  },
  {
    title: 'Brighter',
    modes: [
      ['lighten', 'Lighten'],
      ['screen', 'Screen'],
      ['color-dodge', 'Colour dodge'],
      ['plus', 'Plus'],
      ['divide', 'Divide'],
    ],
  },
  {
    title: 'Contrast',
    modes: [
      ['overlay', 'Overlay'],
      ['soft-light', 'Soft light'],
      ['hard-light', 'Hard light'],
    ],
  },
  {
    title: 'Difference',
    modes: [
      ['difference', 'Difference'],
      ['exclusion', 'Exclusion'],
    ],
  },
  {
    title: 'Part of the colour',
    modes: [
      ['hue', 'Hue'],
      ['saturation', 'Saturation'],
      ['color', 'Colour'],
      ['luminosity', 'Luminosity'],
    ],
  },
]

function newId(): string {
  return crypto.getRandomValues(new Uint32Array(2)).reduce((text, n) => text + n.toString(36), '')
}

export function newLayer(kind: LayerKind, name?: string, values: Layer['values'] = {}): Layer {
  return {
    id: newId(),
    name: name ?? kind.name,
    kind: kind.kind,
    on: true,
    blend: kind.blend,
    opacity: kind.opacity,
    light: 'display',
    values,
    recipe: null,
  }
}

/** Controls that every layer has; all others are its recipe's. */
export const COMMON = ['on', 'opacity', 'blend', 'light', 'name']

/** What a control stands at: as it is set, or by default. */
export function valueOf(layer: Layer, control: Control): Plain {
  return layer.values[control.name] ?? control.default
}

/** The lookup that is set on a layer, where it has one. */
export function lookupOf(layer: Layer): LookupRef | null {
  const held = layer.values.lookup
  return layer.kind === 'lookup-grade' && held && typeof held === 'object' && 'asset' in held ? (held as unknown as LookupRef) : null
}

/** A layer's name from a file's: 'amber-shore.cube' gives 'Amber shore'. */
export function nameOfFile(file: string): string {
  const words = file
    .replace(/\.[^.]*$/, '')
    .replace(/[-_]+/g, ' ')
    .trim()
  return (words.charAt(0).toUpperCase() + words.slice(1)).slice(0, 80) || 'Lookup grade'
}

/** The value of a typed number or small sum (+ - * / and brackets), or null where it is none. */
export function sum(text: string): number | null {
  const tokens = text.replace(/,/g, '.').match(/\d+(\.\d*)?|\.\d+|[-+*/()]|\S/g) ?? []
  let at = 0
  const atom = (): number => {
    const token = tokens[at++]
    if (token === '-') return -atom()
    if (token === '+') return atom()
    if (token === '(') {
      const inside = terms()
      if (tokens[at++] !== ')') throw new Error('bracket')
      return inside
    }
    if (token === undefined || !/^[\d.]/.test(token)) throw new Error('number')
    return Number(token)
  }
  const factors = (): number => {
    let value = atom()
    while (tokens[at] === '*' || tokens[at] === '/') value = tokens[at++] === '*' ? value * atom() : value / atom()
    return value
  }
  const terms = (): number => {
    let value = factors()
    while (tokens[at] === '+' || tokens[at] === '-') value = tokens[at++] === '+' ? value + factors() : value - factors()
    return value
  }
  try {
    const value = terms()
    return at === tokens.length && Number.isFinite(value) ? value : null
  } catch {
    return null
  }
}

export function weight(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  return bytes < 1_000_000 ? `${(bytes / 1000).toFixed(0)} kB` : `${(bytes / 1_000_000).toFixed(2)} MB`
}
