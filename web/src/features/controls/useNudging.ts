/** Keys that turn something: it is saved when the key is let go, or where the focus or the whole control goes before that. */
import { onBeforeUnmount } from 'vue'

const TURNS = /^(Arrow|Home|End)/

export function useNudging(commit: () => void) {
  let turned = false
  function end(): void {
    if (!turned) return
    turned = false
    commit()
  }
  onBeforeUnmount(end)
  return {
    down: (event: KeyboardEvent) => void (turned ||= TURNS.test(event.key)),
    up: (event: KeyboardEvent) => void (TURNS.test(event.key) && end()),
    end,
  }
}
