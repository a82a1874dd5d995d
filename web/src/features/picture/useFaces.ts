/** The points of the faces in the frame that is shown: the cast's exact ones, those tracked in own footage, or the real camera's. */
import { onBeforeUnmount, ref, shallowRef, watch, type Ref } from 'vue'
import { StandIn, type Sitting } from '../../camera/standin'
import { faceOf } from '../../engine/faces'
import type { Face } from '../../engine/moment'
import type { RealCamera } from '../../camera/camera'
import type { Stream } from '../../stream/useStream'

export function useFaces(stream: Stream, sitting: Ref<Sitting>, screen: Ref<string>, still: Ref<string | null>, real: Ref<RealCamera | null>) {
  const on = ref(false)
  const faces = shallowRef<readonly Face[]>([])
  let camera: StandIn | null = null
  let last = 0
  let waiting = false

  async function seat(): Promise<void> {
    camera = null
    if (real.value) real.value.wantsFaces = on.value
    if (!on.value) return
    camera = await StandIn.open(sitting.value, screen.value, still.value).catch(() => null)
    await see(last)
  }

  async function see(frame: number): Promise<void> {
    last = frame
    if (!on.value || waiting) return
    if (real.value) {
      const { width, height } = real.value.canvas
      faces.value = real.value.faces.map((points) => faceOf(points, width, height))
      return
    }
    waiting = true
    try {
      faces.value = (await camera?.moment(frame))?.faces ?? []
    } catch {
      faces.value = []
    } finally {
      waiting = false
    }
    if (last !== frame) void see(last)
  }

  stream.onFrame((header) => void see(header.frame))
  const timer = window.setInterval(() => real.value && void see(last), 100)
  onBeforeUnmount(() => window.clearInterval(timer))
  watch([on, sitting, screen, still, real], () => void seat())

  return { on, faces, toggle: () => void (on.value = !on.value), renew: () => void seat() }
}

export type Faces = ReturnType<typeof useFaces>
