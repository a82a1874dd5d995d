/** Messages at the foot of the page: what happened, and an act that takes it back where there is one. */
import { reactive } from 'vue'

export interface Message {
  text: string
  kind: 'news' | 'trouble'
  act?: { label: string; run: () => void }
}

const current = reactive<{ message: Message | null; open: boolean }>({ message: null, open: false })

export function useMessages() {
  function show(message: Message): void {
    current.message = message
    current.open = true
  }
  return {
    current,
    say: (text: string, act?: Message['act']) => show({ text, kind: 'news', ...(act ? { act } : {}) }),
    complain: (error: unknown) => show({ text: error instanceof Error ? error.message : String(error), kind: 'trouble' }),
  }
}
