/** Messages at the foot of the page: what happened, and an act that takes it back where there is one. */
import { reactive, shallowRef } from 'vue'

export interface Message {
  text: string
  kind: 'news' | 'trouble'
  act?: { label: string; run: () => void }
}

const FLASH_MS = 4000
const keyed = shallowRef<Pick<Message, 'text' | 'act'> | null>(null)
let timer = 0

/** `number` tells one message from the next, which has its own time. */
const current = reactive<{ message: Message | null; open: boolean; number: number }>({ message: null, open: false, number: 0 })

export function useMessages() {
  function show(message: Message): void {
    current.message = message
    current.open = true
    current.number++
  }
  return {
    current,
    say: (text: string, act?: Message['act']) => show({ text, kind: 'news', ...(act ? { act } : {}) }),
    /** What a key did, for a moment, where it covers nothing. */
    flash(text: string, act?: Message['act']): void {
      keyed.value = { text, ...(act ? { act } : {}) }
      window.clearTimeout(timer)
      timer = window.setTimeout(() => (keyed.value = null), FLASH_MS)
    },
    keyed,
    complain: (error: unknown) => show({ text: error instanceof Error ? error.message : String(error), kind: 'trouble' }),
  }
}
