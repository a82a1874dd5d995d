/** Layers as an artist meets them: their words, how new ones start, and the small sums that number fields take. */
import { address, LAYER, MASK } from './address'
import type { Catalogue, Control, Drive, Layer, LayerKind, LookupRef, Plain } from '../api/types'
import { emptyRecipe, setInput } from './recipes'
import { t } from '../words'

/** Blend modes by what they do, with the words shown. */
export const BLEND_GROUPS: { title: string; modes: [string, string][] }[] = [
  { title: t('document.plain'), modes: [['normal', t('document.normal')]] },
  {
    title: t('document.darker'),
    modes: [
      ['darken', t('document.darken')],
      ['multiply', t('document.multiply')],
      ['color-burn', t('document.colourBurn')],
      ['subtract', t('document.subtract')],
    ],
  },
  {
    title: t('document.brighter'),
    modes: [
      ['lighten', t('document.lighten')],
      ['screen', t('document.screen')],
      ['color-dodge', t('document.colourDodge')],
      ['plus', t('document.plus')],
      ['divide', t('document.divide')],
    ],
  },
  {
    title: t('document.contrast'),
    modes: [
      ['overlay', t('document.overlay')],
      ['soft-light', t('document.softLight')],
      ['hard-light', t('document.hardLight')],
    ],
  },
  {
    title: t('document.difference'),
    modes: [
      ['difference', t('document.difference')],
      ['exclusion', t('document.exclusion')],
    ],
  },
  {
    title: t('document.partOfTheColour'),
    modes: [
      ['hue', t('document.hue')],
      ['saturation', t('document.saturation')],
      ['color', t('document.colour')],
      ['luminosity', t('document.luminosity')],
    ],
  },
]

export function newId(): string {
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
    mask: null,
    drives: {},
    group: null,
  }
}

export const OWN = 'own'

/** Set what lies at an address within a layer, which is given as documents write it. */
export function assign(layer: Layer, text: string, value: Plain): void {
  const { part, name, of } = address(layer.id, text)
  if (part === 'layer') Object.assign(layer, { [name]: value })
  else if (part === 'mask') {
    if (layer.mask) layer.mask.values[name] = value
  } else if (part === 'drive') {
    const drive = layer.drives[of]
    if (drive) drive.values[name] = value
  } else if (part === 'node' && layer.recipe) setInput(layer.recipe, text, value)
  else layer.values[name] = value
}

/** What an effect is called that nobody has named yet. */
export const UNNAMED = t('document.untitledEffect')

/** What it is called by its layers, as long as nobody names it. */
export function nameOf(layers: Layer[]): string {
  const [first, second, ...rest] = layers.map((layer) => layer.name)
  if (!first) return UNNAMED
  if (!second) return first
  return (rest.length ? t('document.andMore', { first, second, count: rest.length }) : t('document.and', { first, second })).slice(0, 80)
}

/** A layer of the artist's own, which at first gives what lies below. */
export function ownLayer(name = t('document.ownRecipe')): Layer {
  const blank: LayerKind = { kind: OWN, name, help: '', family: '', also: [], controls: [], blend: 'normal', opacity: 1, settings: [], looks: [], handles: [] }
  return { ...newLayer(blank), recipe: emptyRecipe() }
}

/** After its recipe changed: what was set on controls that are gone goes, too, and numbers are held to the range of the others. */
export function fitToControls(layer: Layer, controls: Control[], types: Catalogue['types'] | undefined): void {
  const known = new Map(controls.map((control) => [control.name, control]))
  const numbers = new Set(controls.flatMap((control) => drivenParts(control, types).map((part) => part.name)))
  const stays = (name: string) => name.startsWith(LAYER) || name.startsWith(MASK) || numbers.has(name)
  layer.drives = Object.fromEntries(Object.entries(layer.drives).filter(([name]) => stays(name)))
  layer.values = Object.fromEntries(
    Object.entries(layer.values).flatMap(([name, value]) => {
      const control = known.get(name)
      if (!control) return []
      const held = typeof value === 'number' && control.low !== null && control.high !== null
      return [[name, held ? Math.min(Math.max(value, control.low ?? value), control.high ?? value) : value]]
    }),
  )
}

/** The opacity among a layer's controls, as documents and drives name it; whether it is on; how much its mask counts. */
export const OPACITY = `${LAYER}opacity`
export const ON = `${LAYER}on`
export const MASKED = `${LAYER}mask`

/** Whether something may move a control by itself; an input of any width may where it stands at a number. */
export function canBeDriven(control: Control | undefined, types: Catalogue['types'] | undefined): boolean {
  if (!control) return false
  return types?.[control.type]?.driven || (control.type === 'any' && typeof control.default === 'number')
}

/** The numbers of a control that may be driven, each by its name in the layer's drives: itself, or each part of a vector. */
export function drivenParts(control: Control, types: Catalogue['types'] | undefined): { name: string; title: string }[] {
  if (canBeDriven(control, types)) return [{ name: control.name, title: control.title }]
  if (!control.type.startsWith('vec') || !Array.isArray(control.default)) return []
  return control.default.map((_, n) => ({ name: `${control.name}.${n}`, title: `${control.title} ${partOf(control, n)}` }))
}

/** The unit of three numbers that are one for each colour. */
export const COLOURS = 'red green blue'
/** What a part of a vector is called. */
export const partOf = (control: Control, n: number): string => (control.unit === COLOURS ? ['R', 'G', 'B'] : ['x', 'y', 'z', 'w'])[n] ?? ''

const UNITS: Record<string, string> = { times: '×', degrees: '°', seconds: 's', 'reference pixels': 'px', stops: 'stops', centimetres: 'cm', 'a second': '/s', 'degrees a second': '°/s', [COLOURS]: '' }

/** How a control's numbers are shown: parts of a whole in per cent, all else in its own unit; with so many digits behind the point. */
export function scaleOf({ unit, low, high, type }: Control): { unit: string; scale: number; digits: number } {
  const part = unit === 'screen' || unit.startsWith('of ') || (unit === '' && low === 0 && high === 1 && type !== 'whole')
  const scale = part ? 100 : 1
  const span = ((high ?? 1) - (low ?? 0)) * scale
  return { unit: part ? '%' : (UNITS[unit] ?? unit), scale, digits: type === 'whole' ? 0 : span >= 20 ? 1 : span >= 1 ? 2 : 3 }
}

/** The gesture and the change that let something drive a control, or nothing any more. `name` as in the layer's or group's drives. */
export function driven(layer: Pick<Layer, 'name' | 'drives'>, name: string, title: string, wanted: Drive | null): [string, Pick<Layer, 'drives'>] {
  const rest = Object.fromEntries(Object.entries(layer.drives).filter(([control]) => control !== name))
  const gesture = wanted ? t('document.ofDriven', { title, name: layer.name }) : t('document.nothingDrivesOf', { title, name: layer.name })
  return [gesture, { drives: wanted ? { ...rest, [name]: wanted } : rest }]
}

/** Those of a layer's drives that move its mask. */
export const maskDrives = (layer: Layer): Layer['drives'] =>
  Object.fromEntries(Object.entries(layer.drives).filter(([control]) => control.startsWith(MASK) || control === MASKED))

/** A copy of a layer with an id of its own. */
export const freshLayer = (layer: Layer): Layer => ({ ...structuredClone(layer), id: newId() })

/** What a control stands at: as it is set, or by default. */
export function valueOf(values: Layer['values'], control: Control): Plain {
  return values[control.name] ?? control.default
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
  return (words.charAt(0).toUpperCase() + words.slice(1)).slice(0, 80) || t('document.lookupGrade')
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

/** What camera apps take, in bytes. */
export const MOST_BYTES = 4_000_000

export function weight(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`
  return bytes < 1_000_000 ? `${(bytes / 1000).toFixed(0)} kB` : `${(bytes / 1_000_000).toFixed(2)} MB`
}
