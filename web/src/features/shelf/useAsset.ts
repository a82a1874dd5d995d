/** What is known of a file: of the one that is asked for last, however late the others answer. */
import { shallowRef, watch, type ShallowRef } from 'vue'
import { api } from '../../api/client'
import type { Asset } from '../../api/types'

/** `fails`: told where it cannot be asked. */
export function useAsset(hash: () => string | null | undefined, fails: (error: unknown) => void = () => undefined): ShallowRef<Asset | null> {
  const asset = shallowRef<Asset | null>(null)
  watch(
    hash,
    async (now, _, outdated) => {
      let mine = true
      outdated(() => (mine = false))
      // What is seen of the one before goes at once.
      asset.value = null
      if (!now) return
      try {
        const found = await api.asset(now)
        if (mine) asset.value = found
      } catch (error) {
        if (mine) fails(error)
      }
    },
    { immediate: true },
  )
  return asset
}
