/** Finding layers by what people call them: which are shown, in which families, and which one Enter takes. */
import type { LayerKind } from '../../api/types'

const FAMILIES = ['Grade', 'Focus', 'Light and texture', 'Distort and break', 'Line', 'Region', 'Face', 'Depth', 'Place']

export interface Family {
  name: string
  kinds: LayerKind[]
}

/** Layers in whose name, help, family or other names each of the words occurs, by family. */
export function foundIn(kinds: LayerKind[], wanted: string): Family[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean)
  const found = kinds.filter((kind) => {
    const text = `${kind.name} ${kind.help} ${kind.family} ${kind.also.join(' ')}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
  const names = [...FAMILIES, ...new Set(found.map((kind) => kind.family))].filter((name, n, all) => all.indexOf(name) === n)
  return names.map((name) => ({ name, kinds: found.filter((kind) => kind.family === name) })).filter((group) => group.kinds.length)
}

/** What Enter takes: what is called just that, by others too, else what begins so, else the first that is shown. */
export function firstOf(families: Family[], wanted: string): LayerKind | undefined {
  const all = families.flatMap((family) => family.kinds)
  const words = wanted.trim().toLowerCase()
  const called = (one: LayerKind) => [one.name, ...one.also].map((name) => name.toLowerCase())
  return (
    all.find((one) => one.name.toLowerCase() === words) ??
    all.find((one) => called(one).includes(words)) ??
    all.find((one) => one.name.toLowerCase().startsWith(words)) ??
    all[0]
  )
}
