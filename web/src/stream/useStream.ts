/** The live picture of an effect: a thread of its own draws it into a canvas; here tiles are kept, and rate and delay measured. */
import { computed, onBeforeUnmount, reactive, ref, shallowReactive, shallowRef, watch } from 'vue'
import { address } from '../document/address'
import type { Effect, Plain } from '../api/types'
import type { RehearsalData } from '../engine/rehearsal'
import type { Done, FrameHeader, Handed, Order, ScoreHeader, ScopeHeader, TilesHeader, Trouble, View, Word } from './messages'
import { t } from '../words'

const FIGURES_MS = 100
const SEEN_MS = 400

export function useStream() {
  const worker = new Worker(new URL('./thread.ts', import.meta.url), { type: 'module' })
  let canvas: HTMLCanvasElement | null = null
  const tiles = shallowReactive(new Map<string, HTMLCanvasElement>())
  const status = reactive({ up: true, frame: 0, rate: 0, delay: 0, seen: false, lossless: false, size: '', width: 540, height: 960 })
  const probed = shallowRef<FrameHeader['probe'] | null>(null)
  const scope = shallowRef<HTMLCanvasElement | null>(null)
  const trouble = ref<Trouble | null>(null)
  const note = ref('')
  const faceless = shallowRef<string[]>([])
  const scored = shallowRef<ScoreHeader | null>(null)
  let rehearsed: ((data: RehearsalData | null) => void) | null = null
  const moves = new Map<number, number>()
  const edits = new Map<number, number>()
  const watchers = new Set<(header: FrameHeader, picture: ImageBitmap | null) => void>()
  const times: number[] = []
  let serial = 0
  let told = 0
  let delay = 0
  let hanging = false
  const asked = ref(0)
  const answered = ref(0)
  const looks = ref(0)
  const looked = ref(0)
  let pending: (() => void) | null = null

  function ask(order: Order): void {
    worker.postMessage(JSON.stringify(order))
  }
  function hand(thing: Handed): void {
    worker.postMessage(thing, [thing])
  }

  /** A frame was drawn. */
  function drawn(header: FrameHeader, now: number, picture: ImageBitmap | null): void {
    if (status.width !== header.width || status.height !== header.height) Object.assign(status, { width: header.width, height: header.height })
    try {
      for (const watcher of watchers) watcher(header, picture)
    } finally {
      // The next copy comes only then.
      if (picture) ask({ type: 'taken' })
      picture?.close()
    }
    if (canvas) Object.assign(canvas.dataset, { serial: header.serial, lossless: header.lossless })
    for (const [number, started] of moves) {
      if (number > header.serial) continue
      moves.delete(number)
      delay = now - started
      performance.measure('move to picture', { start: started, end: now })
    }
    for (const [number, started] of edits) {
      if (number > header.serial) continue
      edits.delete(number)
      performance.measure('edit to picture', { start: started, end: now })
    }
    performance.mark('frame', { startTime: now })
    times.push(now)
    answered.value = Math.max(answered.value, header.serial)
    looked.value = Math.max(looked.value, header.look)
    status.seen = true
    // The figures beside a running picture need no more than ten changes a second; each one costs a layout.
    if (header.playing && now - told < FIGURES_MS) return
    told = now
    while ((times[0] ?? now) < now - 1000) times.shift()
    status.rate = times.length
    status.frame = header.frame
    status.lossless = header.lossless
    probed.value = header.probe ?? null
    status.size = header.full ? '' : `${header.width} × ${header.height}`
    status.delay = delay
  }

  function drawTiles(header: TilesHeader, picture: ImageBitmap): void {
    header.ids.forEach((id, n) => {
      let tile = tiles.get(id)
      if (!tile) {
        tile = document.createElement('canvas')
        tiles.set(id, tile)
      }
      if (tile.width !== header.width || tile.height !== header.height) {
        tile.width = header.width
        tile.height = header.height
      }
      tile
        .getContext('2d', { alpha: false })
        ?.drawImage(picture, 0, n * header.height, header.width, header.height, 0, 0, header.width, header.height)
    })
    // Prints on a wall stay as they were seen last; stages of an effect go with it.
    if (!hanging) for (const id of tiles.keys()) if (!header.ids.includes(id)) tiles.delete(id)
    performance.mark('tiles')
  }

  function drawScope(header: ScopeHeader, picture: ImageBitmap): void {
    const target = scope.value
    if (!target) return
    if (target.width !== header.width || target.height !== header.height) Object.assign(target, { width: header.width, height: header.height })
    target.getContext('2d', { alpha: false })?.drawImage(picture, 0, 0)
    target.dataset.scope = header.scope
    performance.mark('scope')
  }

  worker.onmessage = ({ data }: MessageEvent<Word>) => {
    if (data.type === 'frame') drawn(data.header, data.at - performance.timeOrigin, data.picture)
    else if (data.type === 'painted') performance.mark('frame', { startTime: data.at - performance.timeOrigin })
    else if (data.type === 'connected') {
      status.up = data.up
      if (!data.up) rehearsed?.(null)
    }
    else if (data.type === 'note') [note.value, faceless.value] = [data.message, data.faceless]
    else if (data.type === 'score') scored.value = data
    else if (data.type === 'rehearsal') rehearsed?.(data.rehearsal)
    else if (data.type === 'trouble') {
      trouble.value = data.trouble
      answered.value = Math.max(answered.value, data.trouble?.serial ?? 0)
    } else {
      if (data.type === 'tiles') drawTiles(data.header, data.picture)
      else drawScope(data.header, data.picture)
      data.picture.close()
    }
  }

  worker.onerror = () => {
    trouble.value = { type: 'trouble', layer: null, message: t('stream.thePagesPartThatDrawsThe') }
  }

  /** Changes are counted; the frame that shows one carries its number back. */
  function next(): number {
    asked.value = ++serial
    return serial
  }

  /** Send a control's value; of several within one display frame, the last one goes. */
  function move(layer: string, control: string, value: Plain): void {
    const number = next()
    moves.set(number, performance.now())
    const first = pending === null
    pending = () => ask({ type: 'move', at: address(layer, control), value, serial: number })
    if (first) {
      pending()
      pending = () => undefined
      requestAnimationFrame(() => {
        pending?.()
        pending = null
      })
    }
  }

  const tellHidden = (): void => ask({ type: 'hidden', hidden: document.hidden })
  tellHidden()
  document.addEventListener('visibilitychange', tellHidden)
  onBeforeUnmount(() => {
    document.removeEventListener('visibilitychange', tellHidden)
    worker.terminate()
  })

  return {
    /** `replaced`: `paint` puts pictures in the place of the server's. `copied`: those are given to `onFrame`. */
    setWays: (ways: { replaced: boolean; copied: boolean }) => ask({ type: 'ways', ...ways }),
    /** Draw a picture of the page's own, which is used up. */
    paint: hand,
    /** The canvas that is drawn into; one that is there stays so. */
    attach(element: HTMLCanvasElement | null): void {
      if (!element || element === canvas) return
      canvas = element
      hand(element.transferControlToOffscreen())
    },
    attachScope: (element: HTMLCanvasElement | null) => (scope.value = element),
    tiles,
    probed,
    status,
    trouble,
    note,
    /** Layers that look for faces where none is known. */
    faceless,
    /** What the effect listens to. */
    scored,
    /** What a hand does as if it wore the effect. */
    done: (what: Done) => ask({ type: 'done', done: what }),
    /** What was done since it began anew; null where the server that knew it is lost. */
    performed: () =>
      new Promise<RehearsalData | null>((resolve) => {
        if (!status.up) return resolve(null)
        rehearsed = resolve
        ask({ type: 'done', done: { asks: true } })
      }),
    /** Whether a change is on its way that the picture does not show yet. */
    busy: computed(() => asked.value > answered.value || looks.value > looked.value),
    show(effect: Effect): void {
      const number = next()
      edits.set(number, performance.now())
      ask({ type: 'show', effect, serial: number })
    },
    /** Resolves when the picture shows the last change, or after a while; at once where the page goes away. */
    seen(): Promise<void> {
      if (answered.value >= asked.value) return Promise.resolve()
      return new Promise((resolve) => {
        const done = (): void => {
          stop()
          window.clearTimeout(timer)
          window.removeEventListener('pagehide', done)
          resolve()
        }
        const stop = watch(answered, () => answered.value >= asked.value && done(), { flush: 'sync' })
        const timer = window.setTimeout(done, SEEN_MS)
        window.addEventListener('pagehide', done)
      })
    },
    remember: (effect: Effect) => ask({ type: 'remember', effect, serial }),
    /** Move a small picture of a saved effect, or none. */
    print(id: string | null): void {
      hanging = true
      ask({ type: 'print', id })
    },
    /** Called with each frame, and with its picture where it is copied. Gives what ends it. */
    onFrame(watcher: (header: FrameHeader, picture: ImageBitmap | null) => void): () => void {
      watchers.add(watcher)
      return () => void watchers.delete(watcher)
    },
    setView: (view: View) => ask({ type: 'view', view: { ...view, look: ++looks.value } }),
    move,
  }
}

export type Stream = ReturnType<typeof useStream>
