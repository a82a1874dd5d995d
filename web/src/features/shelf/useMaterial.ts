/** Files that come in: recipes as layers, lookups onto grades, pictures as what the artist says they shall be. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api, Refusal } from '../../api/client'
import type { Layer } from '../../api/types'
import { nameOfFile, ownLayer } from '../../document/layers'
import { useCatalogue } from '../../document/useCatalogue'
import type { EffectDocument } from '../../document/useEffectDocument'
import type { useLayers } from '../../document/useLayers'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const AS_CAMERA = 'camera'
const AS_GRADE = 'grade'
const CLIP = /\.(mp4|mov|m4v|webm|mkv|avi|mpe?g|ogv)$/i
/** Layers that a picture can be dropped into, and which control takes it. */
const TAKES_A_PICTURE: Record<string, string> = {
  picture: 'picture',
  'pinned-picture': 'picture',
  'cut-out': 'picture',
  'two-picture-exposure': 'photo',
  displace: 'picture',
  reveal: 'picture',
}

/** Whether a file is meant as an effect: a package, which is a zip archive, or a document. */
async function isEffect(file: File): Promise<boolean> {
  const head = await file.slice(0, 4000).text()
  return /\.(glaze|zip)$/i.test(file.name) || (/\.json$/i.test(file.name) && head.includes('"sun-glaze/effect"'))
}

export function useMaterial(doc: EffectDocument, layers: ReturnType<typeof useLayers>) {
  const { say, complain } = useMessages()
  const { kind } = useCatalogue()
  const busy = ref<string | null>(null)
  /** A picture of which is asked what it shall be; `lookup` is its hash where it may be one, too. */
  const offered = shallowRef<{ file: File; lookup: string | null } | null>(null)
  const stillName = ref<string | null>(null)

  watch(
    () => doc.effect.value?.still ?? null,
    async (hash) => {
      stillName.value = hash ? ((await api.asset(hash).catch(() => null))?.name ?? null) : null
    },
  )

  const uses = computed(() => [
    ...(offered.value?.lookup ? [{ id: AS_GRADE, title: t('shelf.aLookupGrade'), help: t('shelf.itsColoursAreReadAsA') }] : []),
    ...Object.keys(TAKES_A_PICTURE).flatMap((name) => {
      const found = kind(name)
      return found ? [{ id: name, title: found.name, help: found.help }] : []
    }),
    { id: AS_CAMERA, title: t('shelf.inTheCamerasPlace'), help: t('shelf.theEffectIsLookedAtOn') },
  ])

  /** A file: a recipe becomes a layer; a lookup goes onto the open grade where it was dropped on its desk, else becomes a grade; a picture is asked about. */
  async function take(file: File, into: Layer | null): Promise<void> {
    busy.value = file.name
    try {
      if (await isEffect(file)) {
        const open = async () => void (location.href = `/effects/${(await api.importEffect(file)).id}`)
        say(t('shelf.isAnEffectOfItsOwn', { name: file.name }), { label: t('shelf.openItAsANewEffect'), run: () => void open().catch(complain) })
        return
      }
      if (/\.(json|mtlx)$/i.test(file.name)) {
        const read = await api.importRecipe(file)
        if (read.recipe) layers.insert({ ...ownLayer(nameOfFile(read.recipe.name || file.name)), recipe: read.recipe })
        if (read.notes.length) say(t('shelf.wasReadLeftOut', { name: file.name, notes: read.notes.join(', ') }))
        return
      }
      if (file.type.startsWith('video/') || CLIP.test(file.name)) return await lookAt(file)
      const asset = await api.addLookup(file)
      // Any square picture fits a layout of lookups; what it holds says what it is. On a grade's own desk it was meant.
      if (asset.lookup?.like !== 'lookup' && into?.kind !== 'lookup-grade') {
        offered.value = { file, lookup: asset.lookup?.like === 'unsure' ? asset.hash : null }
        return
      }
      const lookup = { asset: asset.hash, layout: null }
      if (into?.kind === 'lookup-grade') {
        doc.change(t('shelf.lookup', { name: file.name }), (draft) => {
          const layer = draft.layers.find((one) => one.id === into.id)
          if (!layer) return
          if (layer.name === 'Lookup grade') layer.name = nameOfFile(file.name)
          layer.values.lookup = lookup
        })
      } else {
        layers.add('lookup-grade', nameOfFile(file.name), { lookup })
      }
      if (asset.lookup?.like === 'picture') say(t('shelf.isRatherAPictureThanA', { name: file.name }))
      else if (asset.lookup?.damaged)
        say(t('shelf.showsDamageOfALossyFile', { name: file.name, which: asset.lookup.noise === null ? '' : ` ${t('shelf.noise', { noise: asset.lookup.noise.toFixed(4) })}` }))
      else if (asset.lookup && !asset.lookup.sure) say(t('shelf.fitsTwoLayoutsItWasRead', { name: file.name, found: asset.lookup.found }))
    } catch (error) {
      const picture = file.type.startsWith('image/') && error instanceof Refusal && into?.kind !== 'lookup-grade'
      if (picture) offered.value = { file, lookup: null }
      else complain(error)
    } finally {
      busy.value = null
    }
  }

  async function useAs(id: string): Promise<void> {
    const { file, lookup } = offered.value ?? { file: null, lookup: null }
    offered.value = null
    if (!file) return
    if (id === AS_GRADE) {
      layers.add('lookup-grade', nameOfFile(file.name), { lookup: { asset: lookup, layout: null } })
      return
    }
    if (id === AS_CAMERA) {
      await lookAt(file)
      return
    }
    busy.value = file.name
    try {
      const asset = await api.addPicture(file)
      const control = TAKES_A_PICTURE[id] ?? 'picture'
      const also = kind(id)?.controls.find((one) => one.name === control)?.also ?? {}
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
      doc.change(t('shelf.lookAt', { name: file.name }), (draft) => (draft.still = asset.hash))
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
      if (doc.effect.value?.still) doc.change(t('shelf.lookAtTheStandInCamera'), (draft) => (draft.still = null))
    },
  }
}
