/** What there is to work with, asked for once: ready-made layers by kind, with their controls. */
import { shallowRef } from 'vue'
import { api } from '../api/client'
import type { Catalogue, Control, Layer, LayerKind } from '../api/types'

const catalogue = shallowRef<Catalogue | null>(null)
let asked: Promise<void> | null = null

export function useCatalogue() {
  asked ??= api.catalogue().then(
    (found) => void (catalogue.value = found),
    () => void (asked = null), // asked again by the next view
  )
  const kind = (name: string): LayerKind | undefined => catalogue.value?.layers.find((one) => one.kind === name)
  return {
    catalogue,
    kind,
    controls: (layer: Layer): Control[] => kind(layer.kind)?.controls ?? [],
  }
}
