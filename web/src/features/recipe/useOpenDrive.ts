/** The control whose drive's recipe is looked at in place of the layer's: one of the open layer, or of the group that it stands in. */
import { computed, shallowRef, type Ref } from 'vue'
import type { Effect, Layer } from '../../api/types'
import { t } from '../../words'

export type OpenDrive = [control: string, title: string, group?: string]

export function useOpenDrive(effect: Ref<Effect | null>, layer: Ref<Layer | null>) {
  const open = shallowRef<OpenDrive | null>(null)
  const group = computed(() => effect.value?.groups.find((one) => one.id === open.value?.[2]) ?? null)
  const holder = computed(() => group.value ?? layer.value)
  return {
    open,
    group,
    /** Whose drive it is. */
    holder,
    control: computed(() => open.value?.[0] ?? null),
    title: computed(() => (open.value ? t('recipe.whatDrives', { title: open.value[1], name: holder.value?.name ?? '' }) : (layer.value?.name ?? ''))),
    /** What drives it was taken away. */
    gone: computed(() => open.value !== null && !holder.value?.drives[open.value[0]]),
  }
}
