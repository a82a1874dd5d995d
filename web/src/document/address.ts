/** Addresses: which number of which layer, as data (core/effect/address.py). Documents write them as text within the layer. */
import type { Address } from '../api/types'

/** Before the name of what every layer has (on, opacity, blend, light, name); a bare name is a control of its recipe. */
export const LAYER = 'layer:'
/** Before the name of a mask's control. */
export const MASK = 'mask:'
/** Before CONTROL:NAME of what drives a control. */
export const DRIVE = 'drive:'
/** Of the effect itself, before ID:NAME of a cue's control, and ID:start of a dial. */
export const CUE = 'cue:'
export const DIAL = 'dial:'
const OF_ANOTHER = [['drive', DRIVE], ['cue', CUE], ['dial', DIAL]] as const

/** The address that a layer's text says. */
export function address(layer: string, text: string): Address {
  if (text.startsWith(LAYER)) return { layer, part: 'layer', name: text.slice(LAYER.length), of: '' }
  if (text.startsWith(MASK)) return { layer, part: 'mask', name: text.slice(MASK.length), of: '' }
  for (const [part, before] of OF_ANOTHER) {
    if (!text.startsWith(before)) continue
    const colon = text.lastIndexOf(':')
    return { layer: part === 'drive' ? layer : '', part, name: text.slice(colon + 1), of: text.slice(before.length, colon) }
  }
  const point = text.indexOf('.')
  if (point < 0) return { layer, part: 'control', name: text, of: '' }
  return { layer, part: 'node', name: text.slice(point + 1), of: text.slice(0, point) }
}

/** The name under which a program is given it; of colours and vectors, what stands before the parts. */
export function uniformOf({ layer, part, name, of }: Address): string {
  if (part === 'drive') return `${layer}.${DRIVE}${of}:${name}`
  if (part === 'cue') return `${CUE}${of}:${name}`
  if (part === 'dial') return `${DIAL}${of}`
  return `${layer}.${{ layer: LAYER, control: '', mask: MASK, node: `${of}.` }[part]}${name}`
}
