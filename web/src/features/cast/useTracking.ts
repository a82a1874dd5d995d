/**
 * Who is where in the artist's own picture or clip: this browser's trackers look at it once, picture by picture, and the server keeps
 * what they saw, so that Python renders it. Stopping keeps what is done; it goes on from there.
 */
import { computed, onBeforeUnmount, reactive, watch, type Ref } from 'vue'
import { api } from '../../api/client'
import type { Layer } from '../../api/types'
import { leaveTracker, takeTracker, type Tracker } from '../../camera/tracker'
import { t } from '../../words'

const MASK_SIDE = 480

async function png(mask: ImageBitmap | null, width: number, height: number): Promise<string> {
  const scale = Math.min(1, MASK_SIDE / Math.max(width, height))
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale)))
  const context = canvas.getContext('2d')
  if (!context) throw new Error(t('cast.thisBrowserGivesNoCanvas'))
  context.fillRect(0, 0, canvas.width, canvas.height)
  if (mask) context.drawImage(mask, 0, 0, canvas.width, canvas.height)
  mask?.close()
  const bytes = new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())
  return btoa(bytes.reduce((text, byte) => text + String.fromCharCode(byte), ''))
}

/** Hands are looked for, too, where one of the layers asks for them. `renewed` hears when Python has more to render by. */
export function useTracking(still: Ref<string | null>, layers: Ref<Layer[]>, renewed: () => void, complain: (error: unknown) => void) {
  const state = reactive({ running: false, done: 0, of: 0 })
  const hands = computed(() => layers.value.some(({ mask, values, recipe }) => JSON.stringify([mask?.values, values, recipe]).includes('"hands"')))
  let asked = 0

  async function start(): Promise<void> {
    const key = still.value
    const mine = ++asked
    state.running = false
    if (!key) return
    const trackers: Tracker[] = []
    let failed = false
    try {
      const known = await api.tracking(key, hands.value)
      if (mine !== asked) return
      Object.assign(state, { done: known.tracked, of: known.pictures })
      if (known.next === null) return
      state.running = true
      const [masks, faces] = [takeTracker('mask'), takeTracker('face')]
      const fingers = hands.value ? takeTracker('hand') : null
      trackers.push(masks, faces, ...(fingers ? [fingers] : []))
      for (let number = known.next; number < known.pictures; number++) {
        const seconds = known.pictures > 1 ? (known.times[number] ?? 0) : null
        const picture = await createImageBitmap(await api.footagePicture(key, number))
        const { width, height } = picture
        const copy = await createImageBitmap(picture)
        const third = fingers ? await createImageBitmap(picture) : null
        const looks = [masks.track(picture, seconds), faces.track(copy, seconds)] as const
        const [mask, face, hand] = await Promise.all([...looks, fingers && third ? fingers.track(third, seconds) : null])
        const trouble = mask.trouble ?? face.trouble ?? hand?.trouble
        if (trouble) throw new Error(t('cast.theTrackerDoesNotRunHere', { trouble }))
        if (mine !== asked) return
        await api.putTrack(key, number, await png(mask.mask, width, height), face.faces, hand?.hands ?? null)
        state.done = Math.max(state.done, number + 1)
      }
    } catch (error) {
      failed = true
      if (mine === asked) complain(error)
    } finally {
      for (const tracker of trackers) {
        if (failed) tracker.close()
        else leaveTracker(tracker)
      }
      if (mine === asked) state.running = false
      if (trackers.length && still.value === key) renewed()
    }
  }

  function stop(): void {
    asked++
    state.running = false
  }

  watch([still, hands], ([now, wanted], [before, had]) => (now !== before || (wanted && !had)) && void start())
  onBeforeUnmount(stop)

  return { state, start, stop }
}

export type Tracking = ReturnType<typeof useTracking>
