/** Which effects the list shows, and in which order. */
import type { EffectState } from '../../api/types'
import { t } from '../../words'

export const ORDERS = { changed: t('list.lastChanged'), name: t('list.byName'), weight: t('list.heaviestFirst') } as const
export type Order = keyof typeof ORDERS

const plain = (text: string): string => text.normalize('NFD').replace(/\p{Mn}/gu, '').toLowerCase()

/** Those in whose name or layers each of the words occurs, whatever their case and accents. */
export function found<E extends EffectState>(effects: E[], words: string): E[] {
  const wanted = plain(words).split(/\s+/).filter(Boolean)
  return effects.filter((one) => {
    const text = plain([one.effect.name, ...one.effect.layers.map((layer) => layer.name)].join(' '))
    return wanted.every((word) => text.includes(word))
  })
}

export function sorted<E extends EffectState>(effects: E[], order: Order): E[] {
  const by: Record<Order, (a: EffectState, b: EffectState) => number> = {
    changed: (a, b) => Date.parse(b.changed) - Date.parse(a.changed),
    name: (a, b) => a.effect.name.localeCompare(b.effect.name, 'en'),
    weight: (a, b) => b.weight - a.weight,
  }
  return [...effects].sort(by[order])
}
