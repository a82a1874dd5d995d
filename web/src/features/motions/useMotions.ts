/** The effect's cues and dials for whatever chooses among them; those that are made here are saved with the change that they are made for. */
import { computed, inject, provide, type ComputedRef, type InjectionKey, type Ref } from 'vue'
import type { Dial } from '../../engine/dials'
import type { Effect } from '../../api/types'
import type { EffectDocument } from '../../document/useEffectDocument'
import { useCatalogue } from '../../document/useCatalogue'
import { cuesOf, dialFits, newCue, newDial } from '../../document/motions'

export interface Motions {
  effect: Ref<Effect | null>
  cues: ComputedRef<{ own: [string, string][]; kinds: [string, string][] }>
  dials: ComputedRef<Dial[]>
  /** A cue of the effect's own of a kind, made where there is none of it yet; gives its id. */
  owned(cue: string): string
  /** The first dial that a kind of drive may be turned by, made where there is none; gives its id. */
  dial(drive: string, title: string, start?: number | string): string
}

const KEY: InjectionKey<Motions> = Symbol('motions')

export function provideMotions(doc: EffectDocument): Motions {
  const { catalogue } = useCatalogue()
  const made: Motions = {
    effect: doc.effect,
    cues: computed(() => cuesOf(doc.effect.value, catalogue.value)),
    dials: computed(() => doc.effect.value?.dials ?? []),
    owned(cue) {
      const kind = catalogue.value?.cues.find((one) => one.kind === cue)
      if (!doc.effect.value || !kind || doc.effect.value.cues.some((one) => one.id === cue)) return cue
      const fresh = newCue(doc.effect.value, kind)
      doc.sketch((draft) => draft.cues.push(fresh))
      return fresh.id
    },
    dial(drive, title, start) {
      const found = doc.effect.value?.dials.find((one) => dialFits(drive, one))
      if (found || !doc.effect.value) return found?.id ?? ''
      const fresh = newDial(doc.effect.value, drive === 'dial-colour' ? 'colour' : drive === 'dial-steps' ? 'choice' : 'number', title, start)
      doc.sketch((draft) => draft.dials.push(fresh))
      return fresh.id
    },
  }
  provide(KEY, made)
  return made
}

/** Where no effect is around, as for a node's settings in a recipe that is looked at alone, there is none of either. */
export function useMotions(): Motions | null {
  return inject(KEY, null)
}
