/** The layers of the open effect: every way of adding, ordering, copying and switching them. */
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Layer, LayerGroup, LayerKind, Plain } from '../api/types'
import { group, holdTogether, moveGroup } from './groups'
import { LAYER } from './address'
import { freshLayer, newLayer, ownLayer } from './layers'
import { useCatalogue } from './useCatalogue'
import type { EffectDocument } from './useEffectDocument'
import { useMessages } from '../features/messages/useMessages'
import { t } from '../words'

const CLIPBOARD = 'cut layer'

export function useLayers(doc: EffectDocument) {
  const route = useRoute()
  const router = useRouter()
  const { kind } = useCatalogue()
  const { say } = useMessages()
  const { layers } = doc

  // What is open is known here at once; the address follows, so that a reload comes back to it.
  const asked = (name: 'layer' | 'sheet') => (typeof route.query[name] === 'string' ? route.query[name] : null)
  const openId = ref(asked('layer'))
  const sheet = ref(asked('sheet'))
  watch([openId, sheet], ([layer, now]) => void router.replace({ query: { ...(layer ? { layer } : {}), ...(now ? { sheet: now } : {}) } }))
  const open = computed(() => layers.value.find((layer) => layer.id === openId.value) ?? layers.value[0] ?? null)
  const byId = (id: string) => layers.value.find((layer) => layer.id === id)

  /** The sheet that was opened on purpose of each layer; the others show their controls. */
  const sheets = new Map<string, string | null>()
  async function show(id: string): Promise<void> {
    if (id !== open.value?.id) sheet.value = sheets.get(id) ?? null
    openId.value = id
    await nextTick()
  }
  function turnTo(next: string | null): void {
    sheet.value = next
    if (open.value) sheets.set(open.value.id, next)
  }

  /** Put a layer behind another, by default the open one, and open it. */
  function insert(layer: Layer, behind: string | undefined = open.value?.id): void {
    doc.change(t('document.add', { name: layer.name }), (draft) => {
      const after = draft.layers.findIndex((one) => one.id === behind)
      draft.layers.splice(after < 0 ? draft.layers.length : after + 1, 0, layer)
      holdTogether(draft, layer.id)
    })
    openId.value = layer.id
    // An empty recipe has nothing but itself to show.
    turnTo(layer.recipe && !layer.recipe.inputs.length ? 'recipe' : null)
  }

  function set(gesture: string, values: Partial<Layer>, id = open.value?.id): void {
    doc.change(gesture, (draft) => {
      const layer = draft.layers.find((one) => one.id === id)
      if (layer) Object.assign(layer, values)
    })
  }

  return {
    open,
    sheet,
    turnTo,
    byId,
    show,
    insert,
    set,
    setControl(gesture: string, control: string, value: Plain): void {
      if (open.value) set(gesture, { values: { ...open.value.values, [control]: value } })
    },
    add(name: string, called?: string, values?: Layer['values']): void {
      const found = kind(name)
      if (found) insert(newLayer(found, called, values))
    },
    addKind: (found: LayerKind | null) => insert(found ? newLayer(found) : ownLayer()),
    toggle(id: string): void {
      const layer = byId(id)
      if (!layer) return
      doc.turn(id, `${LAYER}on`, !layer.on)
      doc.commit(t('document.switch', { name: layer.name, which: layer.on ? t('document.off') : t('document.on') }))
    },
    /** Open the layer that lies on top. */
    openLast(): void {
      openId.value = layers.value.at(-1)?.id ?? null
      turnTo(null)
    },
    reorder(id: string, to: number): void {
      doc.change(t('document.move', { name: byId(id)?.name ?? 'layer' }), (draft) => {
        const from = draft.layers.findIndex((layer) => layer.id === id)
        draft.layers.splice(to, 0, ...draft.layers.splice(from, 1))
        holdTogether(draft, id)
      })
    },
    /** Take away all layers that are switched off, in one step. */
    removeOff(): void {
      doc.change(t('showcase.removedWhatWasOff'), (draft) => {
        draft.layers = draft.layers.filter((one) => one.on || one.drives['layer:on'])
        holdTogether(draft)
      })
    },
    remove(id: string): void {
      const layer = byId(id)
      if (!layer) return
      doc.change(t('document.remove', { name: layer.name }), (draft) => {
        draft.layers = draft.layers.filter((one) => one.id !== id)
        holdTogether(draft)
      })
      say(t('document.removed', { name: layer.name }), { label: t('document.undo'), run: () => void doc.undo() })
    },
    rename(id: string, name: string): void {
      const layer = byId(id)
      if (layer && name !== layer.name) set(t('document.renameTo', { name: layer.name, name2: name }), { name }, id)
    },
    group(ids: string[]): void {
      doc.change(t('document.group3', { which: ids.length === 1 ? (byId(ids[0] ?? '')?.name ?? '') : t('document.layers', { count: ids.length }) }), (draft) => group(draft, ids))
    },
    changeGroup(gesture: string, id: string, values: Partial<LayerGroup>): void {
      doc.change(gesture, (draft) => draft.groups.forEach((one) => one.id === id && Object.assign(one, values)))
    },
    moveGroup(name: string, id: string, step: -1 | 1): void {
      doc.change(t('document.move', { name }), (draft) => moveGroup(draft, id, step))
    },
    ungroup(name: string, id: string): void {
      doc.change(t('document.dissolve', { name }), (draft) => {
        for (const layer of draft.layers) if (layer.group === id) layer.group = null
        holdTogether(draft)
      })
    },
    duplicate(id: string): void {
      const layer = byId(id)
      if (layer) insert(freshLayer(layer), id)
    },
    copy(id: string): void {
      const layer = byId(id)
      if (!layer) return
      localStorage.setItem(CLIPBOARD, JSON.stringify(layer))
      say(t('document.copiedPasteItHereOrIn', { name: layer.name }))
    },
    paste(): void {
      const held = JSON.parse(localStorage.getItem(CLIPBOARD) ?? 'null') as Layer | null
      if (held) insert({ ...freshLayer(held), group: null })
      else say(t('document.noLayerWasCopiedYet'))
    },
  }
}
