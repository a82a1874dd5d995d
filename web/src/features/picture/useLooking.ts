/**
 * How one looks at the effect: playing, bare, wiped, soloed, as of a stage, on which screen, with what laid over and beside it. None
 * of it is part of the effect; a reload of the tab comes back to it.
 */
import { computed, reactive, ref, toRefs, watch } from 'vue'
import type { Layer } from '../../api/types'
import type { Stream } from '../../stream/useStream'

export const SCREENS = ['9:16', '3:4', '1:1', '16:9'] as const
/** Pixels of the short side; the smaller ones are for slow machines. */
export const SHORTS = [270, 360, 540, 720, 1080] as const
export const SCOPES = ['histogram', 'waveform', 'parade', 'vectorscope'] as const
export const SPEEDS = [1, 0.5, 0.25, 0.1] as const
export type Screen = (typeof SCREENS)[number]
export type ScopeName = (typeof SCOPES)[number]

const WIPE = 0.38
const WHOLE: [number, number, number, number] = [0, 0, 1, 1]

export function useLooking(id: string, stream: Stream, gpuOn: () => boolean, layers: () => Layer[]) {
  const memory = `view ${id}`
  const state = reactive({
    playing: true,
    bare: false,
    wipe: null as number | null,
    screen: '9:16' as Screen,
    short: 540 as (typeof SHORTS)[number],
    scope: null as ScopeName | null,
    region: WHOLE,
    clipping: false,
    probing: false,
    speed: 1 as number,
  })
  const solo = ref<string | null>(null)
  const asOf = ref<string | null>(null)

  /** Layers left out: all but the soloed one, and those behind the stage that one points at. */
  const muted = computed(() => {
    const all = layers().map((layer) => layer.id)
    // A layer that has been removed meanwhile leaves nothing out.
    const out = new Set(solo.value && all.includes(solo.value) ? all.filter((one) => one !== solo.value) : [])
    const at = asOf.value === 'camera' ? 0 : asOf.value && all.includes(asOf.value) ? all.indexOf(asOf.value) + 1 : all.length
    for (const one of all.slice(at)) out.add(one)
    return [...out]
  })

  const kept = JSON.parse(sessionStorage.getItem(memory) ?? '{}') as Partial<typeof state> & { frame?: number }
  for (const name of ['wipe', 'screen', 'short', 'scope', 'speed'] as const) if (kept[name] !== undefined) Object.assign(state, { [name]: kept[name] })
  if (kept.frame !== undefined) {
    state.playing = false
    stream.setView({ playing: false, frame: kept.frame })
  }
  watch([state, () => (state.playing ? -1 : stream.status.frame)], () => {
    const { wipe, screen, short, scope, speed } = state
    const frame = state.playing ? {} : { frame: stream.status.frame }
    sessionStorage.setItem(memory, JSON.stringify({ wipe, screen, short, scope, speed, ...frame }))
  })

  watch(() => state.playing, (playing) => stream.setView({ playing })) // prettier-ignore
  watch(() => state.speed, (speed) => stream.setView({ speed }), { immediate: kept.speed !== undefined }) // prettier-ignore
  watch([() => state.screen, () => state.short], ([screen, short]) => stream.setView({ screen, short }), { immediate: kept.screen !== undefined })
  watch([() => state.scope, () => state.region], ([scope, region]) => stream.setView({ scope: scope ?? 'none', region }), { immediate: !!state.scope })
  watch(() => state.clipping, (clipping) => stream.setView({ clipping })) // prettier-ignore
  watch(() => muted.value.join(), () => stream.setView({ muted: muted.value })) // prettier-ignore
  // On the GPU the stream brings the bare camera, and the page does what bare and wipe do.
  watch([() => state.bare, gpuOn], () => stream.setView({ bare: state.bare || gpuOn() }))
  watch([() => state.wipe, gpuOn], () => stream.setView({ wipe: gpuOn() ? 0 : (state.wipe ?? 0) }), { immediate: state.wipe !== null })
  watch(() => state.probing, (on) => !on && stream.setView({ probe: [-1, -1] })) // prettier-ignore

  /** Pixels of the screen. */
  const size = computed<[number, number]>(() => {
    const [across = 9, down = 16] = state.screen.split(':').map(Number)
    const long = Math.round((state.short * Math.max(across, down)) / Math.min(across, down))
    return across <= down ? [state.short, long] : [long, state.short]
  })

  function next<T>(all: readonly T[], now: T): T {
    return all[(all.indexOf(now) + 1) % all.length] as T
  }

  return {
    ...toRefs(state),
    solo,
    asOf,
    muted,
    size,
    WHOLE,
    toggleWipe: () => (state.wipe = state.wipe === null ? WIPE : null),
    nextScreen: () => (state.screen = next(SCREENS, state.screen)),
    nextScope: () => {
      const all = [null, ...SCOPES] as const
      state.scope = next<ScopeName | null>(all, state.scope)
    },
    nextSpeed: () => (state.speed = next<number>(SPEEDS, state.speed)),
    step(by: number): void {
      state.playing = false
      stream.setView({ playing: false, frame: Math.max(0, stream.status.frame + by) })
    },
  }
}

export type Looking = ReturnType<typeof useLooking>
