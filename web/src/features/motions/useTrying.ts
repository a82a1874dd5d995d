/** Trying the effect as its wearer does: fingers on the picture, cues by hand, dials; what was done can be kept and played in a loop. */
import { computed, ref, watch } from 'vue'
import type { EffectDocument } from '../../document/useEffectDocument'
import { Dials, endsOf, numbersOf } from '../../engine/dials'
import { useMessages } from '../messages/useMessages'
import type { Gpu } from '../picture/useGpu'
import type { Stream } from '../../stream/useStream'
import type { Done } from '../../stream/messages'
import { t } from '../../words'

const ENDS = ['zero', 'full', 'start'] as const

export function useTrying(doc: EffectDocument, stream: Stream, gpu: Gpu) {
  const { say } = useMessages()
  const trying = ref(false)
  const recording = ref(false)
  /** The kept rehearsal is played, in a loop. */
  const rehearsing = ref(false)
  const kept = computed(() => doc.effect.value?.rehearsal ?? null)
  const worn = computed(() => (doc.effect.value?.dials ?? []).filter((one) => one.kind !== 'photo'))
  let end = -1

  function done(what: Done): void {
    stream.done(what)
    gpu.done(what)
  }
  const dials = new Dials([], (numbers) => done({ dials: numbers }))
  watch(worn, (now) => dials.show(now), { immediate: true })

  function rehearse(on: boolean): void {
    rehearsing.value = on && kept.value !== null
    stream.setView({ rehearsing: rehearsing.value })
    gpu.rehearse(rehearsing.value)
  }
  watch(kept, (now) => rehearse(rehearsing.value && now !== null))
  // What was done is known to the server's process alone, but where this page draws by itself.
  watch(
    () => stream.status.up,
    (up) => {
      if (up || !recording.value || gpu.on.value) return
      recording.value = false
      say(t('motions.theRecordingWasLost'))
    },
  )

  return {
    trying,
    recording,
    rehearsing,
    kept,
    worn,
    dials,
    done,
    rehearse,
    toggle: () => void (trying.value = !trying.value),
    /** Begin anew, with what is done from now on. */
    record(): void {
      rehearse(false)
      recording.value = trying.value = true
      done({ anew: true })
    },
    async keep(): Promise<void> {
      recording.value = false
      const made = gpu.on.value ? gpu.performed() : await stream.performed()
      if (!made) return say(t('motions.theRecordingWasLost'))
      doc.change(t('motions.keepTheRehearsal'), (draft) => (draft.rehearsal = made))
      rehearse(true)
    },
    forget(): void {
      rehearse(false)
      doc.change(t('motions.forgetTheRehearsal'), (draft) => (draft.rehearsal = null))
    },
    /** All dials at zero, at full, and where they start, one after the other; gives which. */
    nextEnd(): (typeof ENDS)[number] {
      end = (end + 1) % ENDS.length
      for (const dial of worn.value) dials.put(dial.id, ENDS[end] === 'start' ? null : endsOf(dial)[end === 0 ? 0 : 1])
      // Those that a phone has no room for move as well.
      for (const dial of worn.value.slice(3)) done({ dials: numbersOf(dial, ENDS[end] === 'start' ? dial.start : endsOf(dial)[end === 0 ? 0 : 1]) })
      return ENDS[end] ?? 'start'
    },
  }
}

export type Trying = ReturnType<typeof useTrying>
