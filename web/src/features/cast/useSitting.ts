/** Who sits before the stand-in camera of an effect; kept from session to session. */
import { ref, shallowRef, watch } from 'vue'
import { api } from '../../api/client'
import type { Cast } from '../../api/types'
import type { Sitting } from '../../camera/standin'
import type { Stream } from '../../stream/useStream'

const cast = shallowRef<Cast | null>(null)
let asked: Promise<void> | null = null

export function useSitting(id: string, stream: Stream) {
  asked ??= api.cast().then(
    (found) => void (cast.value = found),
    () => void (asked = null),
  )
  const memory = `sitting ${id}`
  const plain: Sitting = { who: 'lamp-tender', script: 'talk', light: 'noon', back: false, tracked: false }
  const sitting = ref<Sitting>({ ...plain, ...(JSON.parse(localStorage.getItem(memory) ?? '{}') as Partial<Sitting>) })

  watch(
    sitting,
    (now) => {
      localStorage.setItem(memory, JSON.stringify(now))
      stream.setView({ sitting: now })
    },
    { immediate: true },
  )

  /** The next of the cast, of the scripts or of the lights. */
  function next(what: 'who' | 'script' | 'light', step = 1): void {
    const all = { who: cast.value?.people, script: cast.value?.scripts, light: cast.value?.lights }[what] ?? []
    const at = all.findIndex((one) => one.key === sitting.value[what])
    const found = all[(at + step + all.length) % all.length]
    if (found) sitting.value = { ...sitting.value, [what]: found.key }
  }

  return {
    cast,
    sitting,
    next,
    put: (part: Partial<Sitting>) => void (sitting.value = { ...sitting.value, ...part }),
    turn: () => void (sitting.value = { ...sitting.value, back: !sitting.value.back }),
  }
}

export type Sittings = ReturnType<typeof useSitting>
