/** What is said of a published effect, to whoever looks. */
import type { Shown, Texts } from '../../api/types'
import { t } from '../../words'

export const CATEGORY_NAMES: Record<string, string> = {
  colour: t('showcase.ofColour'), film: t('showcase.ofFilm'), faces: t('showcase.ofFaces'), worn: t('showcase.ofWorn'), places: t('showcase.ofPlaces'), weather: t('showcase.ofWeather'),
  glitch: t('showcase.ofGlitch'), drawn: t('showcase.ofDrawn'), words: t('showcase.ofWords'), play: t('showcase.ofPlay'), two: t('showcase.ofTwo'), night: t('showcase.ofNight'),
} // prettier-ignore

/** Its texts in the visitor's language, else in the first. */
export function inLanguage(one: Shown): Texts | null {
  const texts = one.listing?.texts ?? []
  for (const wanted of navigator.languages) {
    const found = texts.find((text) => text.language === wanted) ?? texts.find((text) => text.language.slice(0, 2) === wanted.slice(0, 2))
    if (found) return found
  }
  return texts[0] ?? null
}
