/** Messages at the foot of the page: what happened, and an act that takes it back where there is one. */
import { reactive, shallowRef, watch } from 'vue'

export interface Message {
  text: string
  kind: 'news' | 'trouble'
  act?: { label: string; run: () => void }
}

const FLASH_MS = 4000
const keyed = shallowRef<Pick<Message, 'text' | 'act'> | null>(null)
let timer = 0
let unwatch: () => void = () => undefined

/** `number` tells one message from the next, which has its own time. */
const current = reactive<{ message: Message | null; open: boolean; number: number }>({ message: null, open: false, number: 0 })

export function useMessages() {
  /** `holds`: as long as it does, what is said is so; then the message goes. */
  function show(message: Message, holds?: () => boolean): void {
    unwatch()
    unwatch = holds ? watch(holds, (now) => now || (current.open = false)) : () => undefined
    current.message = message
    current.open = true
    current.number++
  }
  return {
    current,
    say: (text: string, act?: Message['act'], holds?: () => boolean) => show({ text, kind: 'news', ...(act ? { act } : {}) }, holds),
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
