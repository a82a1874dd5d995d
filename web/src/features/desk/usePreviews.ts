/** What nodes of a recipe or mask give, asked for again and again, never faster than it is answered. */
import { onBeforeUnmount, reactive, ref, shallowRef, watch, type Ref } from 'vue'
import { api } from '../../api/client'
import type { Fault, PreviewRequest } from '../../api/types'
import { useEyes } from '../picture/useEyes'

const REST_MS = 260

export interface NodeView {
  type: string
  words: string | null
  tile: number | null
}

/** What is looked at. */
export type Wanted = Pick<PreviewRequest, 'layer' | 'path' | 'only' | 'mask' | 'drive' | 'short'>

export function usePreviews(wanted: Ref<Wanted>) {
  const { effect, sitting, screen, frame } = useEyes()
  const nodes = shallowRef<Record<string, NodeView>>({})
  const faults = shallowRef<Fault[]>([])
  const sheet = shallowRef<ImageBitmap | null>(null)
  const size = reactive({ width: 90, height: 160 })
  const trouble = ref('')
  let timer = 0
  let closed = false
  let stale = false
  let asking = false
  let shown: unknown[] = []

  async function ask(): Promise<void> {
    window.clearTimeout(timer)
    if (asking) {
      stale = true
      return
    }
    if (closed || !effect.value) return
    const now = [effect.value, wanted.value, sitting.value, screen.value, frame()]
    if (now.every((one, n) => one === shown[n])) {
      timer = window.setTimeout(ask, REST_MS)
      return
    }
    shown = now
    asking = true
    stale = false
    try {
      const found = await api.previews({ ...wanted.value, effect: effect.value, frame: Number(now.at(-1)), sitting: sitting.value, screen: screen.value })
      const bytes = Uint8Array.from(atob(found.sheet), (c) => c.charCodeAt(0))
      const picture = bytes.length ? await createImageBitmap(new Blob([bytes], { type: 'image/png' })) : null
      sheet.value?.close()
      Object.assign(size, { width: found.width, height: found.height })
      sheet.value = picture
      nodes.value = found.nodes
      faults.value = found.faults
      trouble.value = ''
    } catch (error) {
      trouble.value = error instanceof Error ? error.message : String(error)
    } finally {
      asking = false
      if (!closed) timer = window.setTimeout(ask, stale ? 0 : REST_MS)
    }
  }

  watch([effect, wanted, sitting, screen], () => void ask(), { immediate: true })
  onBeforeUnmount(() => {
    closed = true
    window.clearTimeout(timer)
    sheet.value?.close()
  })
  return { nodes, faults, sheet, size, trouble }
}

export type Previews = ReturnType<typeof usePreviews>
