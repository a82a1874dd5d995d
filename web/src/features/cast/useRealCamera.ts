/** The real camera in the workbench: chosen by hand, looked at through the GPU, since its pictures are only here. */
import { onBeforeUnmount, ref, shallowRef } from 'vue'
import { RealCamera, stopCamera } from '../../camera/camera'
import { t } from '../../words'

export function useRealCamera(say: (words: string) => void) {
  const camera = shallowRef<RealCamera | null>(null)
  const devices = shallowRef<MediaDeviceInfo[]>([])
  const device = ref('')
  const mirrored = ref(true)
  const starting = ref(false)

  function stop(words = ''): void {
    stopCamera()
    camera.value = null
    starting.value = false
    if (words) say(words)
  }

  async function start(wanted = device.value): Promise<void> {
    camera.value = null
    starting.value = true
    const fresh = new RealCamera((words) => stop(t('cast.hereIsTheStandInAgain', { words })))
    fresh.mirrored = mirrored.value
    try {
      if (!(await fresh.start(wanted || undefined))) return
      camera.value = fresh
      device.value = wanted
      devices.value = await RealCamera.devices()
    } catch (error) {
      say(t('cast.theStandInPlaysOn', { which: error instanceof Error ? error.message : String(error) }))
    }
    starting.value = false
  }

  onBeforeUnmount(() => stop())

  return {
    camera,
    devices,
    device,
    mirrored,
    starting,
    start,
    stop,
    mirror(on: boolean): void {
      mirrored.value = on
      if (camera.value) camera.value.mirrored = on
    },
  }
}

export type Real = ReturnType<typeof useRealCamera>
