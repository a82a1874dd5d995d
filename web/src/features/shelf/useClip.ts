/** The clip that is being made a sequence, if any, and for what: a control of the open layer, or a layer of its own. */
import { shallowRef } from 'vue'
import type { Asset } from '../../api/types'

/** `control`: of the open layer; without one the sequence becomes a layer. */
export interface Clip {
  asset: Asset
  control: string | null
}

const now = shallowRef<Clip | null>(null)

export const useClip = () => ({
  now,
  open: (asset: Asset, control: string | null = null) => void (now.value = { asset, control }),
  close: () => void (now.value = null),
})
