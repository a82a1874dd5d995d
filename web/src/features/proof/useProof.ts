/**
 * A proof sheet as it fills: cells are asked for a few at a time, the nearest to what is looked at first, and again when the effect
 * was changed; what it says comes with them.
 */
import { useIntervalFn } from '@vueuse/core'
import { computed, onBeforeUnmount, reactive, ref, shallowRef, watch, type Ref } from 'vue'
import { api, Refusal } from '../../api/client'
import type { ProofFigures, ProofPlace, ProofSheet, ProofState, SheetWords } from '../../api/types'

const AT_ONCE = 4
const LOOK_MS = 2000
const WORDS_MS = 400

export interface ProofCell {
  key: string
  place: ProofPlace
  print: string
  figures: ProofFigures
  /** It is of a state before the last edit. */
  stale: boolean
}
export type Axis = 'who' | 'light' | 'screen' | 'moment'
export const AXES: Axis[] = ['who', 'light', 'screen', 'moment']

export const keyOf = (place: ProofPlace): string => [place.who, place.light, place.screen, place.moment].join('/')

export function placeAt(sheet: ProofSheet, row: string, column: string): ProofPlace {
  const first = { who: sheet.who[0], light: sheet.light[0], screen: sheet.screen[0], moment: sheet.moment[0] } as ProofPlace
  return { ...first, [sheet.down]: row, [sheet.across]: column }
}

export function placesOf(sheet: ProofSheet): ProofPlace[] {
  return sheet[sheet.down].flatMap((row) => sheet[sheet.across].map((column) => placeAt(sheet, row, column)))
}

/** How far a cell's place on the page is from the middle of what is seen. */
function distance(key: string): number {
  const box = document.querySelector(`[data-cell="${CSS.escape(key)}"]`)?.getBoundingClientRect()
  return box ? Math.hypot(box.left + box.width / 2 - innerWidth / 2, box.top + box.height / 2 - innerHeight / 2) : Infinity
}

export function useProof(id: string, sheet: Ref<ProofSheet | null>, state: Ref<ProofState>, complain: (error: unknown) => void) {
  const cells = reactive(new Map<string, ProofCell>())
  const words = shallowRef<SheetWords>({ said: [], outliers: {} })
  const revision = ref(0)
  const trouble = ref('')
  let waiting: ProofPlace[] = []
  let leave = new AbortController()
  let running = 0
  let wordsTimer = 0
  const wanted = computed(() => (sheet.value ? placesOf(sheet.value) : []))
  const done = computed(() => wanted.value.filter((place) => cells.get(keyOf(place))?.stale === false).length)

  function begin(): void {
    leave.abort()
    leave = new AbortController()
    running = 0
    trouble.value = ''
    const keys = new Set(wanted.value.map(keyOf))
    for (const key of cells.keys()) if (!keys.has(key)) cells.delete(key)
    waiting = wanted.value.filter((place) => cells.get(keyOf(place))?.stale !== false)
    // Where the page has laid them out is known after this turn.
    window.setTimeout(() => Array.from({ length: AT_ONCE }, next), 0)
    speak()
  }

  function next(): void {
    if (running >= AT_ONCE || !waiting.length) return
    const nearest = waiting.reduce((best, place) => (distance(keyOf(place)) < distance(keyOf(best)) ? place : best))
    waiting = waiting.filter((place) => place !== nearest)
    void make(nearest, leave.signal)
  }

  async function make(place: ProofPlace, signal: AbortSignal): Promise<void> {
    running++
    try {
      const made = await api.proofCell(id, place, state.value, signal)
      if (signal.aborted) return
      cells.set(keyOf(place), { key: keyOf(place), place, print: made.print, figures: made.figures, stale: false })
      speak()
    } catch (error) {
      if (signal.aborted) return
      waiting = []
      trouble.value = error instanceof Refusal ? error.message : String(error)
    } finally {
      if (!signal.aborted) {
        running--
        next()
      }
    }
  }

  /** What is said comes a moment after the cells that it is about. */
  function speak(): void {
    window.clearTimeout(wordsTimer)
    wordsTimer = window.setTimeout(() => {
      if (!sheet.value || !done.value) return
      api.proofWords(id, sheet.value, state.value).then((now) => (words.value = now), complain)
    }, WORDS_MS)
  }

  /** Ask for the cells again, be it only those of people whose keys begin so. */
  function renew(who = ''): void {
    for (const cell of cells.values()) if (cell.place.who.startsWith(who)) cell.stale = true
    begin()
  }

  /** An edit, in this window or another, renews the cells; those of before stay in sight until then. */
  const looking = useIntervalFn(async () => {
    if (document.hidden || state.value.revision != null) return
    const now = await api.head(id).catch(() => null)
    if (now === null) return
    if (revision.value && now !== revision.value) renew()
    revision.value = now
  }, LOOK_MS, { immediateCallback: true })

  watch(sheet, begin)
  watch(state, () => (cells.clear(), begin()), { deep: true })
  onBeforeUnmount(() => {
    leave.abort()
    looking.pause()
    window.clearTimeout(wordsTimer)
  })
  return { cells, words, wanted, done, trouble, revision, begin, renew }
}
