/** Groups of layers on the light path: they stand next to each other, under one name and one switch. */
import type { Effect, Layer, LayerGroup } from '../api/types'
import { newId } from './layers'
import { t } from '../words'

/** Neighbours of one group, or a single layer that is in none. */
export interface Run {
  group: LayerGroup | null
  layers: Layer[]
}

export function runs(layers: Layer[], groups: LayerGroup[]): Run[] {
  const found: Run[] = []
  for (const layer of layers) {
    const group = groups.find((one) => one.id === layer.group) ?? null
    const last = found.at(-1)
    if (group && last?.group === group) last.layers.push(layer)
    else found.push({ group, layers: [layer] })
  }
  return found
}

/** Whether a layer is on, and its group, too. */
export function shows(layer: Layer, groups: LayerGroup[]): boolean {
  return layer.on && groups.every((group) => group.id !== layer.group || group.on)
}

/**
 * After the layer `moved` was put somewhere, or others went: between two of a group it joins them; what no longer stands with its
 * group leaves it (of two equal parts the one that was moved), and groups that nobody is in go.
 */
export function holdTogether(draft: Effect, moved?: string): void {
  draft.layers.forEach((layer, n) => {
    const before = draft.layers[n - 1]?.group
    if (layer.id === moved && before && before === draft.layers[n + 1]?.group) layer.group = before
  })
  for (const group of draft.groups) {
    const parts = runs(draft.layers, draft.groups).filter((run) => run.group?.id === group.id)
    const size = (run: Run) => run.layers.length - (run.layers.some((layer) => layer.id === moved) ? 0.5 : 0)
    const [, ...rest] = parts.sort((a, b) => size(b) - size(a))
    for (const layer of rest.flatMap((run) => run.layers)) layer.group = null
  }
  draft.groups = draft.groups.filter((group) => draft.layers.some((layer) => layer.group === group.id))
}

/** Put layers into a group of their own; they come to stand where the first of them stood. */
export function group(draft: Effect, ids: string[]): LayerGroup {
  const made = { id: newId(), name: t('document.group', { count: draft.groups.length + 1 }), on: true, drives: {} }
  const first = draft.layers.findIndex((layer) => ids.includes(layer.id))
  const chosen = draft.layers.filter((layer) => ids.includes(layer.id)).map((layer) => ({ ...layer, group: made.id }))
  const others = draft.layers.filter((layer) => !ids.includes(layer.id))
  draft.layers = [...others.slice(0, first), ...chosen, ...others.slice(first)]
  draft.groups.push(made)
  holdTogether(draft)
  return made
}

/** Move a whole group past its neighbour, which may be a group itself. */
export function moveGroup(draft: Effect, id: string, step: -1 | 1): void {
  const all = runs(draft.layers, draft.groups)
  const at = all.findIndex((run) => run.group?.id === id)
  const [run] = all.splice(at, 1)
  if (!run) return
  all.splice(Math.min(Math.max(at + step, 0), all.length), 0, run)
  draft.layers = all.flatMap((one) => one.layers)
}
