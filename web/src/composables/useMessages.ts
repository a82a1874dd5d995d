/** Messages at the foot of the page: what happened, and an act that takes it back where there is one. */
import { reactive } from 'vue'

export interface Message {
  text: string
  /** `key`: what a key did, for a moment. */
  kind: 'news' | 'trouble' | 'key'
  act?: { label: string; run: () => void }
}

const current = reactive<{ message: Message | null; open: boolean }>({ message: null, open: false })

export function useMessages() {
  function show(message: Message): void {
    // Words that wait to be read or acted on are not pushed away by what a key did.
    if (message.kind === 'key' && current.open && current.message && current.message.kind !== 'key') return
    current.message = message
    current.open = true
  }
  return {
    current,
    say: (text: string, act?: Message['act']) => show({ text, kind: 'news', ...(act ? { act } : {}) }),
    flash: (text: string, act?: Message['act']) => show({ text, kind: 'key', ...(act ? { act } : {}) }),
    complain: (error: unknown) => show({ text: error instanceof Error ? error.message : String(error), kind: 'trouble' }),
  }
}
