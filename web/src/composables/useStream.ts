/** The live picture of an effect: draws frames into a canvas, keeps tiles, and measures rate and delay. */
import { computed, onBeforeUnmount, reactive, ref, shallowReactive, shallowRef, watch } from 'vue'
import type { Effect, Plain } from '../api/types'
import { Connection, type FrameHeader, type ScopeHeader, type TilesHeader, type Trouble, type View } from '../stream/connection'

const FIGURES_MS = 100
const SEEN_MS = 400

export function useStream() {
  const canvas = ref<HTMLCanvasElement | null>(null)
  const tiles = shallowReactive(new Map<string, HTMLCanvasElement>())
  const status = reactive({ up: true, frame: 0, rate: 0, delay: 0, seen: false, lossless: false, size: '', width: 540, height: 960 })
  const probed = shallowRef<FrameHeader['probe'] | null>(null)
  const scope = shallowRef<HTMLCanvasElement | null>(null)
  const trouble = ref<Trouble | null>(null)
  /** While it is, frames of the server are not drawn: `paint` puts others in their place. */
  const replaced = ref(false)
  const moves = new Map<number, number>()
  const edits = new Map<number, number>()
  const watchers = new Set<(header: FrameHeader, picture: ImageBitmap) => void>()
  const drawn: number[] = []
  let serial = 0
  let told = 0
  let delay = 0
  const asked = ref(0)
  const answered = ref(0)
  const looks = ref(0)
  const looked = ref(0)
  let pending: (() => void) | null = null

  function drawFrame(header: FrameHeader, picture: ImageBitmap): void {
    const target = canvas.value
    if (!target || replaced.value) return picture.close()
    if (target.width !== header.width || target.height !== header.height) {
      target.width = header.width
      target.height = header.height
      Object.assign(status, { width: header.width, height: header.height })
    }
    for (const watcher of watchers) watcher(header, picture)
    target.getContext('bitmaprenderer')?.transferFromImageBitmap(picture)
    target.dataset.serial = String(header.serial)
    target.dataset.lossless = String(header.lossless)
    const now = performance.now()
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
    performance.mark('frame')
    drawn.push(now)
    answered.value = Math.max(answered.value, header.serial)
    looked.value = Math.max(looked.value, header.look)
    status.seen = true
    // The figures beside a running picture need no more than ten changes a second; each one costs a layout.
    if (header.playing && now - told < FIGURES_MS) return
    told = now
    while ((drawn[0] ?? now) < now - 1000) drawn.shift()
    status.rate = drawn.length
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
    for (const id of tiles.keys()) if (!header.ids.includes(id)) tiles.delete(id)
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

  const connection = new Connection({
    scope: drawScope,
    frame: drawFrame,
    tiles: drawTiles,
    trouble: (found) => {
      trouble.value = found
      answered.value = Math.max(answered.value, found?.serial ?? 0)
    },
    connected: (up) => (status.up = up),
  })

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
    pending = () => connection.move(layer, control, value, number)
    if (first) {
      pending()
      pending = () => undefined
      requestAnimationFrame(() => {
        pending?.()
        pending = null
      })
    }
  }

  onBeforeUnmount(() => connection.close())

  return {
    replaced,
    /** Draw a picture of the page's own. */
    paint(picture: ImageBitmap): void {
      canvas.value?.getContext('bitmaprenderer')?.transferFromImageBitmap(picture)
      performance.mark('frame')
    },
    attach: (element: HTMLCanvasElement | null) => (canvas.value = element),
    attachScope: (element: HTMLCanvasElement | null) => (scope.value = element),
    tiles,
    probed,
    status,
    trouble,
    /** Whether a change is on its way that the picture does not show yet. */
    busy: computed(() => asked.value > answered.value || looks.value > looked.value),
    show(effect: Effect): void {
      const number = next()
      edits.set(number, performance.now())
      connection.show(effect, number)
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
    remember: (effect: Effect) => connection.remember(effect, serial),
    gallery: (ids: string[]) => connection.gallery(ids),
    /** Called with each frame before it is drawn. */
    onFrame: (watcher: (header: FrameHeader, picture: ImageBitmap) => void) => watchers.add(watcher),
    setView: (view: View) => connection.setView({ ...view, look: ++looks.value }),
    move,
  }
}

export type Stream = ReturnType<typeof useStream>
