/** Files that come in: recipes as layers, lookups onto grades, pictures and what moves as what the artist says they shall be. */
import { computed, ref, shallowRef } from 'vue'
import { api, Refusal } from '../../api/client'
import type { Asset, Control, Layer, LayerKind, ShelfPiece } from '../../api/types'
import { nameOfFile, ownLayer } from '../../document/layers'
import { chosen, factsOf } from '../../document/material'
import { useCatalogue } from '../../document/useCatalogue'
import type { EffectDocument } from '../../document/useEffectDocument'
import type { useLayers } from '../../document/useLayers'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'
import { useAsset } from './useAsset'
import { useClip } from './useClip'
import { batches, useShelf } from './useShelf'

const AS_CAMERA = 'camera'
const AS_GRADE = 'grade'
const AS_SEQUENCE = 'sequence'
const AS_LAYER = 'layer'
const CLIP = /\.(mp4|mov|m4v|webm|mkv|avi|mpe?g|ogv)$/i
const MOVES = /\.(gif|apng|zip)$/i
const isPictureFile = (name: string): boolean => /\.(png|jpe?g|webp|tiff?|bmp|avif|exr)$/i.test(name)
const MESH = /\.(glb|gltf|obj)$/i

export interface Use {
  id: string
  title: string
  help: string
}

/** Whether a file is meant as an effect: a package, which is a zip archive, or a document. */
async function isEffect(file: File): Promise<boolean> {
  const head = await file.slice(0, 4000).text()
  if (/\.zip$/i.test(file.name)) return head.includes('manifest.json')
  return /\.glaze$/i.test(file.name) || (/\.json$/i.test(file.name) && head.includes('"sun-glaze/effect"'))
}

/** Whether a file holds limits of where effects go, which pre-flight checks against. */
const isProfile = async (file: File): Promise<boolean> => /\.json$/i.test(file.name) && (await file.slice(0, 4000).text()).includes('"sun-glaze/profile"')

/** The control of a layer that takes a picture, where it has one. */
export const pictureOf = (kind: LayerKind): Control | undefined => kind.controls.find((one) => one.type === 'asset')

/** The control of a layer that takes a mesh, where it has one. */
const meshOf = (kind: LayerKind): Control | undefined => kind.controls.find((one) => one.type === 'mesh')

export function useMaterial(doc: EffectDocument, layers: ReturnType<typeof useLayers>) {
  const { say, complain } = useMessages()
  const { catalogue, kind } = useCatalogue()
  const shelf = useShelf()
  const clip = useClip()
  const busy = ref<string | null>(null)
  /** Material of which is asked what it shall be; `unsure`: it looks like a lookup, too. */
  const offered = shallowRef<{ piece: ShelfPiece; unsure: boolean } | null>(null)
  const still = useAsset(() => doc.effect.value?.still)

  const grade: Use = { id: AS_GRADE, title: t('shelf.aLookupGrade'), help: t('shelf.itsColoursAreReadAsA') }
  const camera: Use = { id: AS_CAMERA, title: t('shelf.inTheCamerasPlace'), help: t('shelf.theEffectIsLookedAtOn') }
  /** What a piece can be in this effect. */
  function usesOf(piece: ShelfPiece): Use[] {
    const taking = (catalogue.value?.layers ?? []).filter(pictureOf).map((one) => ({ id: one.kind, title: one.name, help: one.help }))
    // What a file is taken for is a guess: a picture may be read as a lookup all the same, and a lookup shown as a picture.
    if (piece.kind === 'lookup') return isPictureFile(piece.asset.name) ? [grade, ...taking, camera] : [grade]
    if (piece.kind === 'picture') return [...taking, grade, camera]
    if (piece.kind === 'sequence') return taking
    if (piece.kind === 'mesh') return (catalogue.value?.layers ?? []).filter(meshOf).map((one) => ({ id: one.kind, title: one.name, help: one.help }))
    if (piece.kind === 'profile') return []
    if (piece.kind === 'footage') return [{ id: AS_SEQUENCE, title: t('shelf.aSequence'), help: t('shelf.aPartOfItPlaysIn') }, camera]
    return [{ id: AS_LAYER, title: t('shelf.aLayerOfItsOwn'), help: t('shelf.itsNodesAsALayer') }]
  }
  const uses = computed(() => {
    if (!offered.value) return []
    const found = usesOf(offered.value.piece)
    const layerUses = found.filter((one) => one !== grade && one !== camera)
    const others = found.filter((one) => one === grade || one === camera)
    // What is no layer for a picture stands near the beginning, where it is seen without scrolling.
    return offered.value.unsure ? [...others, ...layerUses] : [...layerUses.slice(0, 1), ...others, ...layerUses.slice(1)]
  })

  /** Files: a recipe becomes a layer; a lookup goes onto the open grade where it was dropped on its desk, else becomes a grade; of a
   * picture, a clip, what moves, and numbered pictures together, is asked what they shall be. */
  async function takeAll(files: File[], into: Layer | null): Promise<void> {
    for (const [n, row] of batches(files).entries()) {
      if (row.length > 1) await offer(row)
      else if (row[0]) await take(row[0], n === 0 ? into : null)
    }
  }

  async function take(file: File, into: Layer | null): Promise<void> {
    busy.value = file.name
    try {
      if (await isEffect(file)) {
        const open = async () => void (location.href = `/effects/${(await api.importEffect(file)).id}`)
        say(t('shelf.isAnEffectOfItsOwn', { name: file.name }), { label: t('shelf.openItAsANewEffect'), run: () => void open().catch(complain) })
        return
      }
      if (await isProfile(file)) {
        await api.toShelf(file)
        void shelf.refresh().catch(() => undefined)
        say(t('shelf.preflightKnowsIt', { name: file.name }))
        return
      }
      if (/\.(json|mtlx)$/i.test(file.name)) {
        const read = await api.importRecipe(file)
        if (read.recipe) layers.insert({ ...ownLayer(nameOfFile(read.recipe.name || file.name)), recipe: read.recipe })
        if (read.notes.length) say(t('shelf.wasReadLeftOut', { name: file.name, notes: read.notes.join(', ') }))
        return
      }
      if (file.type.startsWith('video/') || [CLIP, MOVES, MESH].some((kind) => kind.test(file.name))) return await offer([file])
      const asset = await api.addLookup(file)
      // Any square picture fits a layout of lookups; what it holds says what it is. On a grade's own desk it was meant.
      if (asset.lookup?.like !== 'lookup' && into?.kind !== 'lookup-grade') return await offer([file], asset.lookup?.like === 'unsure')
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
      // Undone, or in another's place, it is no longer so.
      const isWorn = () => doc.layers.value.some((one) => (one.values.lookup as typeof lookup | null | undefined)?.asset === asset.hash)
      const note = (words: string) => say(words, undefined, isWorn)
      if (asset.lookup?.like === 'picture') note(t('shelf.isRatherAPictureThanA', { name: file.name }))
      else if (asset.lookup?.damaged)
        note(t('shelf.showsDamageOfALossyFile', { name: file.name, which: asset.lookup.noise === null ? '' : ` ${t('shelf.noise', { noise: asset.lookup.noise.toFixed(4) })}` }))
      else if (asset.lookup && !asset.lookup.sure) note(t('shelf.fitsTwoLayoutsItWasRead', { name: file.name, found: asset.lookup.found }))
    } catch (error) {
      const picture = file.type.startsWith('image/') && error instanceof Refusal && into?.kind !== 'lookup-grade'
      if (picture) await offer([file])
      else complain(error)
    } finally {
      busy.value = null
    }
  }

  /** Keep it on the shelf, and ask what it shall be. */
  async function offer(files: File[], unsure = false): Promise<void> {
    busy.value = files[0]?.name ?? null
    try {
      const come = files.length > 1 ? await api.numbered(files) : await api.toShelf(files[0] as File)
      if (come.notes.length) say(`${come.piece.asset.name}: ${come.notes.join('; ')}`)
      offered.value = { piece: come.piece, unsure }
      void shelf.refresh().catch(() => undefined)
    } catch (error) {
      complain(error)
    } finally {
      busy.value = null
    }
  }

  async function useAs(id: string): Promise<void> {
    const now = offered.value
    offered.value = null
    if (now) await usePiece(now.piece, id)
  }

  /** Make a piece of the shelf what it is wanted as. */
  async function usePiece(piece: ShelfPiece, id: string): Promise<void> {
    const { asset } = piece
    try {
      if (id === AS_CAMERA) lookAtAsset(asset.footage ? asset : await again(asset, api.addFootage))
      else if (id === AS_SEQUENCE) clip.open(asset)
      else if (id === AS_GRADE) {
        const lookup = asset.lookup ? asset : await again(asset, api.addLookup)
        layers.add('lookup-grade', nameOfFile(asset.name), { lookup: { asset: lookup.hash, layout: null } })
      } else if (id === AS_LAYER) {
        const recipe = await api.keptGroup(asset.hash)
        layers.insert({ ...ownLayer(nameOfFile(asset.name)), recipe })
      } else addLayer(id, piece.kind === 'lookup' ? await again(asset, api.addPicture) : asset)
    } catch (error) {
      complain(error)
    }
  }

  /** A new layer with a picture or a sequence in it. */
  function addLayer(id: string, asset: Asset): void {
    const found = kind(id)
    const control = found && (asset.mesh ? meshOf(found) : pictureOf(found))
    if (!found || !control) return
    const named = ['picture', 'overlay', 'dust', 'mesh'].includes(id)
    layers.add(id, named ? nameOfFile(asset.name) : undefined, { [control.name]: chosen(asset), ...control.also, ...factsOf(asset, control.facts) })
  }

  /** A file as something else than it was read as: it is kept as that, too. */
  async function again(asset: Asset, add: (file: File) => Promise<Asset>): Promise<Asset> {
    const file = await (await fetch(`/api/assets/${asset.hash}/file`)).blob()
    return add(new File([file], asset.name))
  }

  function lookAtAsset(asset: Asset): void {
    doc.change(t('shelf.lookAt', { name: asset.name }), (draft) => (draft.still = asset.hash))
  }
  async function lookAt(file: File): Promise<void> {
    try {
      busy.value = file.name
      lookAtAsset(await api.addFootage(file))
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
    usesOf,
    stillName: computed(() => still.value?.name ?? null),
    take,
    takeAll,
    useAs,
    usePiece,
    addLayer,
    lookAt,
    standIn(): void {
      if (doc.effect.value?.still) doc.change(t('shelf.lookAtTheStandInCamera'), (draft) => (draft.still = null))
    },
  }
}
