/** A clip that is being made a sequence: the effect is looked at with it in its place, and then uses it. */
import { computed, onBeforeUnmount, watch, type Ref } from 'vue'
import type { Asset, Effect, Layer } from '../../api/types'
import type { EffectDocument } from '../../document/useEffectDocument'
import { nameOfFile, newLayer } from '../../document/layers'
import { chosen } from '../../document/material'
import { useCatalogue } from '../../document/useCatalogue'
import { useClip } from './useClip'
import { t } from '../../words'

/** A layer of its own for what moves, where it is for no control. */
const LAID = 'overlay'

/** `look`: show an effect that is not saved. `shown`: another clip is opened, or none any more. */
export function useClipping(doc: EffectDocument, open: Ref<Layer | null>, openLast: () => void, look: (effect: Effect) => void, shown: () => void, screen: Ref<string>) {
  const { kind } = useCatalogue()
  const clip = useClip()

  /** The effect with a sequence in its place. */
  function withSequence(draft: Effect, asset: Asset): void {
    const { control } = clip.now.value ?? {}
    const layer = control ? draft.layers.find((one) => one.id === open.value?.id) : undefined
    const into = layer && control ? (kind(layer.kind)?.controls.find((one) => one.name === control)?.also ?? {}) : {}
    const found = kind(LAID)
    if (layer && control) layer.values = { ...layer.values, [control]: chosen(asset), ...into }
    else if (found) draft.layers.push(newLayer(found, nameOfFile(asset.name), { picture: chosen(asset) }))
  }
  function lookAt(asset: Asset | null): void {
    if (!doc.effect.value) return
    const draft = structuredClone(doc.effect.value)
    if (asset) withSequence(draft, asset)
    look(draft)
  }
  watch(clip.now, (now, before) => {
    shown()
    if (!now && before) lookAt(null)
  })
  onBeforeUnmount(clip.close)

  return {
    ...clip,
    lookAt,
    /** The screen for which it is looked at; or how many centimetres of a face it is wide, where the layer hangs on one. */
    used: computed(() => {
      const layer = open.value
      const { control } = clip.now.value ?? {}
      const found = layer && control ? kind(layer.kind) : undefined
      // What its handle says of its width.
      const size = found?.handles.find((one) => one.anchor && one.shape?.of === control)?.moves.size
      const value = size ? (layer?.values[size] ?? found?.controls.find((one) => one.name === size)?.default) : null
      return { screen: screen.value, centimetres: typeof value === 'number' ? value : null }
    }),
    as: computed(() => (clip.now.value?.control ? (open.value?.name ?? '') : (kind(LAID)?.name ?? '')).toLowerCase()),
    use(asset: Asset): void {
      doc.change(t('workbench.sequenceOf', { name: asset.name }), (draft) => withSequence(draft, asset))
      if (!clip.now.value?.control) openLast()
      clip.close()
    },
  }
}
