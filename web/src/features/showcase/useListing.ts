/** What is said of an effect where it is published: filled ahead, changed on the sheet, kept as it is typed. */
import { useDebounceFn } from '@vueuse/core'
import { ref, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { Listing, ListingState } from '../../api/types'

const SOON_MS = 400

export function useListing(id: string, complain: (error: unknown) => void) {
  const state = shallowRef<ListingState | null>(null)
  const listing = ref<Listing | null>(null)
  let asked = Promise.resolve()

  async function load(): Promise<void> {
    state.value = await api.listing(id)
    listing.value = state.value.listing
  }

  /** Keep it as it stands now, after what is on its way. */
  function keep(): Promise<void> {
    const now = listing.value
    asked = asked.then(() => (now ? api.putListing(id, now) : undefined)).catch(complain)
    return asked
  }
  const soon = useDebounceFn(keep, SOON_MS)

  function change(part: Partial<Listing>): void {
    if (!listing.value) return
    listing.value = { ...listing.value, ...part }
    void soon()
  }
  return { state, listing, load, keep, change }
}

export type Listings = ReturnType<typeof useListing>
