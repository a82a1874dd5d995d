/** The mask of the open layer laid over the picture: a fill behind its layer, with the same mask, that is never saved. */
import { ref, watch, type Ref } from 'vue'
import type { Effect, Layer, LayerKind, Plain } from '../../api/types'
import { MASK } from '../../document/address'
import { maskDrives, newLayer } from '../../document/layers'
import type { Stream } from '../../stream/useStream'
import { t } from '../../words'

const OVERLAY = 'mask-overlay'

export function useMaskOverlay(stream: Stream, effect: Ref<Effect | null>, open: Ref<Layer | null>, kind: (name: string) => LayerKind | undefined) {
  const on = ref(false)

  /** The effect as it is shown. */
  function dressed(plain: Effect): Effect {
    const at = plain.layers.findIndex((layer) => layer.id === open.value?.id)
    const layer = plain.layers[at]
    const fill = kind('fill')
    if (!on.value || !layer?.mask || !fill) return plain
    const laid = { ...newLayer(fill, t('desk.mask2'), { colour: '#d0103a' }), id: OVERLAY, group: layer.group, blend: 'normal', opacity: 0.55, mask: structuredClone(layer.mask), drives: maskDrives(layer) }
    const above = plain.layers.slice(at + 1).map((one) => ({ ...one, on: false }))
    return { ...plain, layers: [...plain.layers.slice(0, at + 1), laid, ...above] }
  }
  function show(now: boolean): void {
    on.value = now
    if (effect.value) stream.show(dressed(effect.value))
  }
  watch(
    () => open.value?.id,
    () => on.value && show(false),
  )

  return {
    on,
    dressed,
    show,
    move(layer: string, control: string, value: Plain): void {
      if (on.value && layer === open.value?.id && control.startsWith(MASK)) stream.move(OVERLAY, control, value)
    },
  }
}
