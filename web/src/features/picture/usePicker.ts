/** Taking a colour from the picture: a control asks, the next click on the picture answers. */
import { ref, shallowRef } from 'vue'

const waiting = shallowRef<((colour: string | null) => void) | null>(null)
const picking = ref(false)

export function usePicker() {
  function answer(colour: string | null): void {
    waiting.value?.(colour)
    waiting.value = null
    picking.value = false
  }
  return {
    picking,
    /** A colour as #rrggbb, or null where it was called off. */
    pick(): Promise<string | null> {
      answer(null)
      picking.value = true
      return new Promise((resolve) => (waiting.value = resolve))
    },
    answer,
  }
}
