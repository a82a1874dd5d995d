/**
 * Handles of what is open: which there are, where they lie, and what moving them does to the controls. One gesture is one step of
 * undo; what something drives is shown where it is now, and moving it moves the range of the drive.
 */
import { computed, onBeforeUnmount, ref, shallowReactive, shallowRef, watch, type Ref } from 'vue'
import { api } from '../../api/client'
import type { Control, Handle, Layer, Plain } from '../../api/types'
import { DRIVE, MASK } from '../../document/address'
import { valueOf } from '../../document/layers'
import { assetOf, sizeOf as pixelsOf } from '../../document/material'
import { useCatalogue } from '../../document/useCatalogue'
import type { EffectDocument } from '../../document/useEffectDocument'
import type { Stream } from '../../stream/useStream'
import type { Values } from './dragging'
import { groundOf, long, placing, within, type Frame, type Placed, type Point } from './placing'
import { t } from '../../words'

/** A part of a layer that has handles: the layer itself, its mask, or a node of its recipe. `before`: what its drives' names begin with. */
interface Bearer {
  handles: Handle[]
  controls: Control[]
  values: Record<string, Plain>
  before: string
  address: (control: string) => string
}

export interface Asked {
  doc: EffectDocument
  stream: Stream
  open: Ref<Layer | null>
  tab: Ref<'controls' | 'paint' | 'mask' | 'recipe'>
  /** The one node that is chosen in the open recipe. */
  node: () => string | null
  /** Whether the picture is shown as it is, without anything over it. */
  bare: Ref<boolean>
  show: (layer: string) => void
}

const KEPT = 'handles'

export function useHandles({ doc, stream, open, tab, node, bare, show }: Asked) {
  const { catalogue, kind, controls, ports } = useCatalogue()
  const on = ref(localStorage.getItem(KEPT) !== 'off')
  const now = shallowRef<Record<string, number>>({})
  const sizes = shallowReactive(new Map<string, Point | null>())
  const ground = computed(() => groundOf(stream.status.width, stream.status.height))

  const itself = (layer: Layer): Bearer => ({
    handles: layer.recipe?.handles ?? kind(layer.kind)?.handles ?? [],
    controls: controls(layer), values: layer.values, before: '', address: (control) => control,
  }) // prettier-ignore

  function bearer(layer: Layer): Bearer | null {
    if (tab.value === 'controls') return itself(layer)
    if (tab.value === 'mask') {
      const mask = catalogue.value?.masks.find((one) => one.kind === layer.mask?.kind)
      return mask && layer.mask ? { handles: mask.handles, controls: mask.controls, values: layer.mask.values, before: MASK, address: (control) => MASK + control } : null
    }
    const chosen = layer.recipe?.nodes.find((one) => one.id === node())
    const found = catalogue.value?.nodes.find((one) => one.kind === chosen?.kind)
    if (!layer.recipe || !chosen || !found || !ports.value) return null
    // What a wire brings, or a control of the layer, is not the node's to place.
    const taken = new Set([...layer.recipe.wires.map((wire) => wire.to), ...layer.recipe.inputs.flatMap((input) => input.to)])
    const free = found.inputs.filter((input) => !taken.has(`${chosen.id}.${input.name}`))
    return { handles: found.handles, controls: free, values: chosen.set, before: '\0', address: (control) => `${chosen.id}.${control}` }
  }

  /** What a control stands at now, with what drives it. */
  function read(layer: Layer, of: Bearer, name: string): Plain | undefined {
    const control = of.controls.find((one) => one.name === name)
    if (!control) return undefined
    const plain = valueOf(of.values, control)
    const driven = (part: string): number | undefined => (layer.drives[of.before + part] ? now.value[of.before + part] : undefined)
    if (Array.isArray(plain)) return plain.map((part, n) => driven(`${name}.${n}`) ?? part)
    return driven(name) ?? plain
  }

  /** Pixels of the text or picture that a control holds, once they are known. */
  function sizeOf(control: Control | undefined, plain: Plain | undefined): Point | null {
    if (!control || plain === null || plain === undefined) return null
    const key = JSON.stringify(plain)
    if (!sizes.has(key)) {
      sizes.set(key, null)
      const asked = control.type === 'text' ? api.textSize(plain) : api.asset(assetOf(plain) ?? '').then((asset) => pixelsOf(asset))
      asked.then(
        (found) => sizes.set(key, found && !Array.isArray(found) ? [found.width, found.height] : found),
        () => sizes.delete(key), // asked again when it is looked at next
      )
    }
    return sizes.get(key) ?? null
  }

  /** What handles of the watched layer hang on, as the last frame told it. */
  function frameOf(node: string): Frame | null {
    const part = (name: string): Point => [(now.value[`${node}:${name}.0`] ?? 0) * ground.value[0], (now.value[`${node}:${name}.1`] ?? 0) * ground.value[1]]
    const [at, right, down] = [part('middle'), part('across'), part('down')]
    return long(right) && long(down) ? { at, right, down } : null
  }

  function placed(layer: Layer, of: Bearer): Placed[] {
    const get = (name: string): Plain | undefined => read(layer, of, name)
    return of.handles.flatMap((handle) => {
      const there = Object.values(handle.moves).every((name) => of.controls.some((one) => one.name === name))
      const meant = Object.entries(handle.when).every(([name, values]) => values.includes(get(name) as string | number | boolean))
      const shape = handle.shape?.of
      const size = shape ? sizeOf(of.controls.find((one) => one.name === shape), get(shape)) : null // prettier-ignore
      const found = there && meant ? placing(handle, get, ground.value, size, handle.anchor ? frameOf(handle.anchor) : null) : null
      return found ? [found] : []
    })
  }

  // Texts and pictures are measured before they are clicked.
  watch([doc.layers, catalogue], ([layers]) => layers.forEach((layer) => placed(layer, itself(layer))), { immediate: true })

  const bearing = computed(() => (open.value ? bearer(open.value) : null))
  const there = computed(() => (open.value?.on && bearing.value ? placed(open.value, bearing.value) : []))
  const shown = computed(() => (on.value && !bare.value ? there.value : []))

  // Frames say where what is driven stands, for as long as somebody looks at it.
  const hanging = computed(() => bearing.value?.handles.some((handle) => handle.anchor) ?? false)
  const watched = computed(() => (on.value && !bare.value && open.value?.on && (hanging.value || (shown.value.length && Object.keys(open.value.drives).length)) ? open.value.id : ''))
  watch(watched, (layer) => stream.setView({ watched: layer }))
  onBeforeUnmount(stream.onFrame((header) => {
    if (header.driven && JSON.stringify(header.driven) !== JSON.stringify(now.value)) now.value = header.driven
  })) // prettier-ignore

  let began: { layer: string; values: Map<string, Plain>; read: Map<string, Plain | undefined> } | null = null
  /** What is written at an address: as it was before, so that a gesture can be taken back. */
  function write(layer: Layer, address: string, was: Plain, value: Plain): void {
    if (began && !began.values.has(address)) began.values.set(address, was)
    doc.turn(layer.id, address, value)
  }

  function number(layer: Layer, of: Bearer, control: Control, name: string, was: number, value: number): number {
    const held = Number(Math.min(control.high ?? Infinity, Math.max(control.low ?? -Infinity, value)).toFixed(4))
    const drive = layer.drives[of.before + name]
    if (!drive) return held
    // Both ends of the drive go as far as the handle went.
    const way = catalogue.value?.drives.find((one) => one.kind === drive.kind)
    for (const end of way?.controls.filter((one) => one.driven) ?? []) {
      const address = `${DRIVE}${of.before}${name}:${end.name}`
      const stood = Number(began?.values.get(address) ?? drive.values[end.name] ?? end.default)
      write(layer, address, stood, Number((stood + value - was).toFixed(4)))
    }
    return NaN
  }

  function set(handle: Handle, values: Values): void {
    const layer = open.value
    const of = bearing.value
    if (!layer || !of || !began || began.layer !== layer.id) return
    for (const [part, value] of Object.entries(values)) {
      const name = handle.moves[part]
      const control = of.controls.find((one) => one.name === name)
      if (!name || !control) continue
      const plain = valueOf(of.values, control)
      if (!began.read.has(name)) began.read.set(name, read(layer, of, name))
      const was = began.read.get(name)
      let made: Plain
      if (typeof value === 'number') made = number(layer, of, control, name, Number(was), value)
      else if (Array.isArray(value)) {
        const stood = Array.isArray(was) ? was.map(Number) : [0, 0]
        made = value.map((one, n) => number(layer, of, control, `${name}.${n}`, stood[n] ?? 0, one))
        // What is driven keeps what it would stand at otherwise.
        if (made.some(Number.isNaN) && Array.isArray(plain)) made = made.map((one, n) => (Number.isNaN(one) ? Number(plain[n]) : Number(one)))
      } else made = value as unknown as Plain
      if (!Number.isNaN(made) && JSON.stringify(made) !== JSON.stringify(plain)) write(layer, of.address(name), plain, made)
    }
  }

  return {
    on,
    there,
    shown,
    ground,
    set,
    toggle(): void {
      on.value = !on.value
      localStorage.setItem(KEPT, on.value ? 'on' : 'off')
    },
    /** `on`: whether a gesture that is not ended yet goes on, as that of a key held down. */
    begin(on = false): void {
      if (on && began && began.layer === open.value?.id) return
      if (open.value) began = { layer: open.value.id, values: new Map(), read: new Map() }
    },
    /** Keep what was done as one step. */
    finish(handle: Handle): void {
      if (began?.values.size && open.value) doc.commit(t('handles.ofPlaced', { title: handle.title, name: open.value.name }))
      began = null
    },
    /** Take back what was done since it began. */
    cancel(): void {
      if (began) for (const [address, was] of began.values) doc.turn(began.layer, address, was)
      began = null
    },
    /** Open the uppermost layer that has a box or quad at a place of the picture (u, v). */
    openAt([u, v]: Point): void {
      const place: Point = [u * ground.value[0], v * ground.value[1]]
      const layers = [...doc.layers.value].reverse().filter((layer) => layer.on)
      const found = layers.find((layer) => placed(layer, itself(layer)).some((one) => ['box', 'quad'].includes(one.handle.kind) && within(one, place)))
      if (found && found.id !== open.value?.id) show(found.id)
    },
  }
}

export type Handles = ReturnType<typeof useHandles>
