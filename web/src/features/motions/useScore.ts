/** The last ten seconds of what the effect listens to, from the stream's frames or from this device's GPU. */
import { computed, onBeforeUnmount, ref, shallowReactive, watch } from 'vue'
import type { Gpu } from '../picture/useGpu'
import type { Stream } from '../../stream/useStream'
import type { ScoreHeader } from '../../stream/messages'

export const SECONDS = 10
const RATE = 30
/** Counts beside the picture need no more than ten changes a second. */
const FIGURES_MS = 100

/** A frame: numbers of each line, then of each cue whether it holds and how often it has fired. */
export interface Scored {
  frame: number
  values: number[]
}

export function useScore(id: string, stream: Stream, gpu: Gpu) {
  const memory = `score ${id}`
  const wanted = ref(localStorage.getItem(memory) !== 'off')
  watch(wanted, (now) => localStorage.setItem(memory, now ? 'on' : 'off'))
  const described = computed<ScoreHeader | null>(() => (gpu.on.value ? gpu.score.value : stream.scored.value))
  /** Whether there is anything to be seen. */
  const listens = computed(() => Boolean(described.value && (described.value.lines.length || described.value.cues.length)))
  const on = computed(() => wanted.value && listens.value)
  const history: Scored[] = []
  const counts = shallowReactive(new Map<string, number>())
  const watchers = new Set<() => void>()
  let told = 0

  function take(frame: number, values: number[]): void {
    const last = history.at(-1)
    if (last && frame <= last.frame) {
      // A control has moved, or time went back.
      while ((history.at(-1)?.frame ?? -1) >= frame) history.pop()
    }
    history.push({ frame, values })
    while ((history[0]?.frame ?? frame) < frame - SECONDS * RATE) history.shift()
    for (const watcher of watchers) watcher()
    const now = performance.now()
    if (now - told < FIGURES_MS) return
    told = now
    const first = described.value?.lines.length ?? 0
    described.value?.cues.forEach((cue, n) => counts.set(cue.id, values[first + 2 * n + 1] ?? 0))
  }

  const ends = [
    stream.onFrame((header) => !gpu.on.value && header.score && take(header.frame, header.score)),
    gpu.onScored((frame, values) => gpu.on.value && take(frame, values)),
  ]
  watch(described, () => ((history.length = 0), counts.clear()))
  // Frames say it as long as it is looked at; what there is to see is told with the first.
  stream.setView({ scored: true })
  onBeforeUnmount(() => ends.forEach((end) => end()))

  return {
    toggle: () => void (wanted.value = !wanted.value),
    on,
    listens,
    described,
    counts,
    history,
    onChange(watcher: () => void): () => void {
      watchers.add(watcher)
      return () => void watchers.delete(watcher)
    },
  }
}

export type Score = ReturnType<typeof useScore>
