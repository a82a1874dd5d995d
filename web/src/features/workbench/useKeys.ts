/** Keys of a view. They are not taken from fields that are being typed in. */
import { onBeforeUnmount, onMounted } from 'vue'
import { useMessages, type Message } from '../messages/useMessages'
import { t } from '../../words'

type Act = (event: KeyboardEvent) => void

const KEYS: Record<string, string> = { space: 'Space', ',': t('workbench.comma'), '.': t('workbench.fullStop') }

/** What a key did, in words, and what takes it back where something does. */
export type Told = () => string | [string, NonNullable<Message['act']>]

/** `told` is shown for a moment: letters do something here though no field has them. `down` and `up` map a key, with modifiers in the order ctrl+shift+, to an act; 'ctrl' is Command on a Mac. */
export function useKeys(down: Record<string, Act>, up: Record<string, Act> = {}, told: Record<string, Told> = {}): void {
  const { flash } = useMessages()
  function name(event: KeyboardEvent): string {
    const modifiers = `${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${event.shiftKey ? 'shift+' : ''}`
    return modifiers + (event.key === ' ' ? 'space' : event.key.toLowerCase())
  }
  function typing(event: KeyboardEvent): boolean {
    const target = event.target as HTMLElement
    // A sheet or menu has the keys to itself, but not while it closes: it keeps the focus until the browser next draws.
    const overlay = target.closest('.v-overlay')
    if (overlay) return overlay.classList.contains('v-overlay--active')
    return target.matches('input:not([type=range], [type=checkbox], [type=radio]), textarea, select, [contenteditable]')
  }
  function onDown(event: KeyboardEvent): void {
    const act = down[name(event)]
    if (!act || typing(event)) return
    // A focused button or link keeps its space bar and Enter.
    if (event.key === ' ' && (event.target as HTMLElement).matches('button, a, input')) return
    event.preventDefault()
    if (event.repeat && name(event) !== ',' && name(event) !== '.') return
    act(event)
    const words = told[name(event)]?.()
    if (!words) return
    const [text, back] = typeof words === 'string' ? [words, undefined] : words
    flash(`${KEYS[name(event)] ?? name(event).replace('shift+', 'Shift ').toUpperCase()}: ${text}`, back)
  }
  function onUp(event: KeyboardEvent): void {
    up[event.key.toLowerCase()]?.(event)
  }
  onMounted(() => {
    window.addEventListener('keydown', onDown)
    window.addEventListener('keyup', onUp)
  })
  onBeforeUnmount(() => {
    window.removeEventListener('keydown', onDown)
    window.removeEventListener('keyup', onUp)
  })
}
