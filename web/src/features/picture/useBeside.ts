/** What stands beside the picture: a take of the effect, or the effect on another performer. One takes the other's place. */
import { computed, ref, shallowRef, type Ref } from 'vue'
import type { Effect } from '../../api/types'
import type { Sitting } from '../../camera/standin'
import type { Sittings } from '../cast/useSitting'

export interface Beside {
  name: string
  effect: Effect
  sitting: Sitting
}

export function useBeside(effect: Ref<Effect | null>, sittings: Sittings) {
  const take = shallowRef<{ name: string; effect: Effect } | null>(null)
  const who = ref<string | null>(null)

  const beside = computed((): Beside | null => {
    const sitting = sittings.sitting.value
    if (take.value) return { ...take.value, sitting }
    const person = sittings.cast.value?.people.find((one) => one.key === who.value)
    return person && effect.value ? { name: person.title, effect: effect.value, sitting: { ...sitting, who: person.key } } : null
  })
  function stand(person: string | null): void {
    take.value = null
    who.value = person
  }

  return {
    beside,
    who,
    stand,
    show(name: string, effect: Effect): void {
      take.value = { name, effect }
      who.value = null
    },
    /** Another of the cast, the next each time; behind the last one nobody. */
    next(): void {
      const others = sittings.cast.value?.people.map((one) => one.key).filter((key) => key !== sittings.sitting.value.who) ?? []
      stand(others[who.value ? others.indexOf(who.value) + 1 : 0] ?? null)
    },
  }
}
