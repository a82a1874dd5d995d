/** Files that come in: recipes as layers, lookups onto grades, pictures as what the artist says they shall be. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, Refusal } from '../api/client'
import type { Layer } from '../api/types'
import { nameOfFile, ownLayer } from '../effect/layers'
import { useCatalogue } from './useCatalogue'
import type { EffectDocument } from './useEffectDocument'
import type { useLayers } from './useLayers'
import { useMessages } from './useMessages'

const AS_CAMERA = 'camera'
const CLIP = /\.(mp4|mov|m4v|webm|mkv|avi|mpe?g|ogv)$/i
/** Layers that a picture can be dropped into, and which control takes it. */
const TAKES_A_PICTURE: Record<string, { control: string; also: Layer['values'] }> = {
  picture: { control: 'picture', also: {} },
  'cut-out': { control: 'picture', also: {} },
  'two-picture-exposure': { control: 'photo', also: {} },
  displace: { control: 'picture', also: { use: true } },
  reveal: { control: 'picture', also: { use: true } },
}

export function useMaterial(doc: EffectDocument, layers: ReturnType<typeof useLayers>) {
  const { say, complain } = useMessages()
  const { kind } = useCatalogue()
  const busy = ref<string | null>(null)
  const offered = shallowRef<File | null>(null)
  const stillName = ref<string | null>(null)

  watch(
    () => doc.effect.value?.still ?? null,
    async (hash) => {
      stillName.value = hash ? ((await api.asset(hash).catch(() => null))?.name ?? null) : null
    },
  )

  const uses = computed(() => [
    ...Object.keys(TAKES_A_PICTURE).flatMap((name) => {
      const found = kind(name)
      return found ? [{ id: name, title: found.name, help: found.help }] : []
    }),
    { id: AS_CAMERA, title: "In the camera's place", help: 'The effect is looked at on this picture' },
  ])

  /** A file: a recipe becomes a layer; a lookup goes onto the open grade where it was dropped on its desk, else becomes a grade; a picture is asked about. */
  async function take(file: File, into: Layer | null): Promise<void> {
    busy.value = file.name
    try {
      if (/\.(json|mtlx)$/i.test(file.name)) {
        const read = await api.importRecipe(file)
        if (read.recipe) layers.insert({ ...ownLayer(nameOfFile(read.recipe.name || file.name)), recipe: read.recipe })
        if (read.notes.length) say(`${file.name} was read; left out: ${read.notes.join(', ')}.`)
        return
      }
      if (file.type.startsWith('video/') || CLIP.test(file.name)) return await lookAt(file)
      const asset = await api.addLookup(file)
      const lookup = { asset: asset.hash, layout: null }
      if (into?.kind === 'lookup-grade') {
        doc.change(`Lookup ${file.name}`, (draft) => {
          const layer = draft.layers.find((one) => one.id === into.id)
          if (!layer) return
          if (layer.name === 'Lookup grade') layer.name = nameOfFile(file.name)
          layer.values.lookup = lookup
        })
      } else {
        layers.add('lookup-grade', nameOfFile(file.name), { lookup })
      }
      if (asset.lookup?.damaged)
        say(`${file.name} shows damage of a lossy file${asset.lookup.noise === null ? '' : ` (noise ${asset.lookup.noise.toFixed(4)})`}. It is used, but colours will shift and band: export it again as PNG.`)
      else if (asset.lookup && !asset.lookup.sure) say(`${file.name} fits two layouts; it was read as ${asset.lookup.found}. The desk can change that.`)
    } catch (error) {
      const picture = file.type.startsWith('image/') && error instanceof Refusal && into?.kind !== 'lookup-grade'
      if (picture) offered.value = file
      else complain(error)
    } finally {
      busy.value = null
    }
  }

  async function useAs(id: string): Promise<void> {
    const file = offered.value
    offered.value = null
    if (!file) return
    if (id === AS_CAMERA) {
      await lookAt(file)
      return
    }
    busy.value = file.name
    try {
      const asset = await api.addPicture(file)
      const { control, also } = TAKES_A_PICTURE[id] ?? { control: 'picture', also: {} }
      layers.add(id, id === 'picture' ? nameOfFile(file.name) : undefined, { [control]: asset.hash, ...also })
    } catch (error) {
      complain(error)
    } finally {
      busy.value = null
    }
  }

  async function lookAt(file: File): Promise<void> {
    try {
      busy.value = file.name
      const asset = await api.addFootage(file)
      doc.change(`Look at ${file.name}`, (draft) => (draft.still = asset.hash))
    } catch (error) {
      complain(error)
    } finally {
      busy.value = null
    }
  }

  return {
    busy,
    offered,
    uses,
    stillName,
    take,
    useAs,
    lookAt,
    standIn(): void {
      if (doc.effect.value?.still) doc.change('Look at the stand-in camera', (draft) => (draft.still = null))
    },
  }
}
