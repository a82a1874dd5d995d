/** All words of the interface stand in en.json, by key; a second language is a second file. What the catalogue says of layers and
 * nodes comes with them. */
import { createI18n } from 'vue-i18n'
import en from './en.json'

type Words = typeof en
/** Keys as they are written: SPACE.KEY. */
export type Key = { [Space in keyof Words]: `${Space & string}.${keyof Words[Space] & string}` }[keyof Words]

const i18n = createI18n({ legacy: false, locale: 'en', messages: { en } })

/** The words of a key; values take the places of names in braces. */
export function t(key: Key, values: Record<string, unknown> = {}): string {
  return i18n.global.t(key, values)
}
