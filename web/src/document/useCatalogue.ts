/** What there is to work with, asked for once: ready-made layers by kind, with their controls. */
import { computed, shallowRef } from 'vue'
import { api } from '../api/client'
import type { Catalogue, Control, Layer, LayerKind } from '../api/types'
import { OWN } from './layers'
import { Ports } from './recipes'

const catalogue = shallowRef<Catalogue | null>(null)
let asked: Promise<void> | null = null
const ports = computed(() => catalogue.value && new Ports(catalogue.value))

export function useCatalogue() {
  asked ??= api.catalogue().then(
    (found) => void (catalogue.value = found),
    () => void (asked = null), // asked again by the next view
  )
  const kind = (name: string): LayerKind | undefined => catalogue.value?.layers.find((one) => one.kind === name)
  return {
    catalogue,
    kind,
    ports,
    controls: (layer: Layer): Control[] => {
      if (layer.kind === OWN) return layer.recipe && ports.value ? ports.value.controls(layer.recipe) : []
      return kind(layer.kind)?.controls ?? []
    },
  }
}
