/**
 * The effect on this device's GPU in the workbench: the stream brings the bare camera, the player draws the effect over it.
 * A control's move is a uniform and shows at once; what changes the program's form is asked for anew.
 */
import { computed, onBeforeUnmount, ref, shallowRef, watch, type Ref } from 'vue'
import { api } from '../../api/client'
import type { Effect, Plain } from '../../api/types'
import { shows } from '../../document/groups'
import { address, uniformOf } from '../../document/address'
import { OPACITY } from '../../document/layers'
import { choosePython, drawnMs, isToBeTried, keepsUp, TIMED } from './device'
import { Packed, type Film } from '../../engine/films'
import { Host } from '../../engine/host'
import { Rehearsal, type RehearsalData } from '../../engine/rehearsal'
import { Signals, type SignalData } from '../../engine/signals'
import { faceOf } from '../../engine/faces'
import { partsOf } from '../../engine/parts'
import { modelsOf, type Material, type Program } from '../../engine/player'
import { StandIn, type Sitting } from '../../camera/standin'
import type { RealCamera } from '../../camera/camera'
import type { Done, FrameHeader, ScoreHeader } from '../../stream/messages'
import type { Stream } from '../../stream/useStream'

const SETTLE_MS = 80
const RATE = 30
/** The workbench stands before it is asked what the device can: that takes a moment where there is no graphics processor. */
const LATER_MS = 4000

function floats(text: string): Float32Array {
  return new Float32Array(Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer)
}

/** Numbers of a control as the program's uniforms have them; nothing for what is part of its form. */
function uniforms(name: string, value: Plain): Record<string, number> {
  if (typeof value === 'number' || typeof value === 'boolean') return { [name]: Number(value) }
  if (Array.isArray(value) && value.every((part) => typeof part === 'number')) return Object.fromEntries(value.map((part, n) => [`${name}.${n}`, part]))
  if (typeof value === 'string' && /^#[0-9a-f]{6}/i.test(value)) {
    const parts = value.slice(1).match(/../g) ?? []
    return Object.fromEntries(parts.map((part, n) => [`${name}.${n}`, parseInt(part, 16) / 255]))
  }
  // How a sequence is played.
  if (value && typeof value === 'object' && 'rate' in value) return { [`${name}.rate`]: Number(value.rate), [`${name}.shift`]: Number(value.shift ?? 0) }
  // How fast a mesh moves.
  if (value && typeof value === 'object' && 'speed' in value) return { [`${name}.speed`]: Number(value.speed) }
  return {}
}

export function useGpu(stream: Stream, effect: Ref<Effect | null>, sitting: Ref<Sitting>, real: Ref<RealCamera | null>) {
  /** The screen, as 9:16, and its pixels. */
  const screen = ref('9:16')
  const size = ref<[number, number]>([540, 960])
  const wanted = ref(false)
  /** While values of the picture are read (scopes, probe, clipping, a mask laid over), it comes from Python, which reads them. */
  const away = ref(false)
  /** A real camera's pictures are in this page only: with one, there is no other view. */
  const on = computed(() => real.value !== null || (wanted.value && !away.value))
  const trouble = ref('')
  /** The masks that the effect reads of a camera. */
  const masks = shallowRef<string[]>([])
  let canvas: HTMLCanvasElement | null = null
  let host: Host | null = null
  let held: ImageBitmap[] = []
  let standIn: StandIn | null = null
  let key = ''
  let timer = 0
  let asking = new AbortController()
  let last: Pick<FrameHeader, 'width' | 'height' | 'frame'> | null = null
  let muted: string[] = []
  const score = shallowRef<ScoreHeader | null>(null)
  let listening: Signals | null = null
  let heard: Record<string, number> = {}
  const listeners = new Set<(frame: number, values: number[]) => void>()
  let rehearsing = false
  /** Milliseconds of frames, while this device draws on trial. */
  let trial: number[] | null = null
  const byItself = window.setTimeout(begin, LATER_MS)

  /** Let this device draw where that is what it is made for. */
  function begin(): void {
    if (wanted.value || !isToBeTried()) return
    trial = []
    wanted.value = true
  }

  /** A frame on trial: the quickest of some tells whether this device keeps up. */
  function tried(ms: number): void {
    trial?.push(ms)
    if (!trial || trial.length < TIMED) return
    if (!keepsUp(trial)) wanted.value = false
    trial = null
  }

  async function renew(): Promise<void> {
    const now = effect.value
    if (!on.value || !now || !canvas) return
    asking.abort()
    const { signal } = (asking = new AbortController())
    const pictures: Material['pictures'] = new Map()
    let isOpen = false
    try {
      const made = await api.program(now, signal)
      if (!on.value || !canvas) return
      const program = made.program as unknown as Program
      listen(made.score as unknown as ScoreHeader & { signals: SignalData; uniforms: Record<string, number> })
      if (host?.isOpen && made.key === key) {
        Object.assign(host.uniforms, program.uniforms)
        host.paint(program.pictures)
      } else {
        for (const [name, address] of Object.entries(made.pictures)) {
          const options = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' } as const
          pictures.set(name, await createImageBitmap(await (await fetch(address, { signal })).blob(), options))
        }
        const films = Object.entries(program.sequences ?? {}).map(([id, { files, holds }]): [string, Film] => [id, new Packed(files, holds)])
        const meshes = await modelsOf(program, pictures, async (file) => (await fetch(file, { signal })).arrayBuffer())
        const parts = await partsOf(program)
        // A newer one may have been asked for, or the page left, while this one's material came.
        if (!on.value || !canvas) throw new DOMException('', 'AbortError')
        signal.throwIfAborted()
        if (host?.canvas !== canvas) {
          host?.close()
          host = new Host(canvas)
        }
        host.open(program, { tables: made.tables.map(floats), pictures, sequences: new Map(films), meshes, parts })
        // Kept as long as the player is: a lost context is built anew from them.
        for (const picture of held) picture.close()
        held = [...pictures.values()].filter((one) => one instanceof ImageBitmap)
        isOpen = true
        key = made.key
        masks.value = host.masks
        seated()
        // It has no picture yet, and a paused stream sends none by itself.
        stream.setView({ bare: true })
      }
      trouble.value = ''
      draw(null)
    } catch (error) {
      if (!isOpen) for (const picture of pictures.values()) if (picture instanceof ImageBitmap) picture.close()
      if (signal.aborted || !on.value) return
      // The last good program keeps running.
      trouble.value = error instanceof Error ? error.message : String(error)
    }
  }

  function draw(picture: TexImageSource | null, masks?: ReadonlyMap<string, TexImageSource>): void {
    if (!host || !last) return
    const { layers = [], groups = [] } = effect.value ?? {}
    for (const layer of layers) {
      const amount = OPACITY in layer.drives ? 1 : layer.opacity
      host.uniforms[uniformOf(address(layer.id, OPACITY))] = shows(layer, groups) && !muted.includes(layer.id) ? amount : 0
    }
    host.side = !real.value && sitting.value.back ? 'back' : 'front'
    const { width, height, frame } = last
    const drawing = (): void => host?.draw(frame, width, height, { picture, masks })
    if (trial && canvas) tried(drawnMs(canvas, drawing))
    else drawing()
    const values = listening?.at(host.moment(last.frame, width, height), heard, (frame) => (host as Host).moment(frame, width, height))
    if (values) for (const listener of listeners) listener(last.frame, values)
  }

  /** What the effect listens to is computed beside it, as Python does for its own pictures. */
  function listen(made: ScoreHeader & { signals: SignalData; uniforms: Record<string, number> }): void {
    heard = { ...made.uniforms }
    const said = JSON.stringify([made.lines, made.cues])
    if (said !== JSON.stringify([score.value?.lines, score.value?.cues])) score.value = { type: 'score', lines: made.lines, cues: made.cues }
    listening = new Signals(made.signals, effect.value?.seed ?? 0)
  }

  /** The effect's own rehearsal before the camera, or what is done by hand. */
  function seated(): void {
    const kept = rehearsing ? effect.value?.rehearsal : null
    if (host) host.rehearsed = kept ? Rehearsal.read(kept) : null
  }

  stream.onFrame((header, picture) => {
    if (!on.value || real.value) return
    last = header
    if (looks()) void masked(header)
    draw(picture)
  })

  /** Whether the program reads more of the stand-in than its picture. */
  const looks = (): boolean => standIn !== null && Boolean(host?.masks.length || host?.readsFaces)

  /** Masks come a moment later than the picture; they are drawn as soon as they are there. */
  async function masked(header: typeof last & object): Promise<void> {
    if (host?.readsFaces) host.faces = (await standIn?.moment(header.frame).catch(() => null))?.faces ?? []
    const masks = await standIn?.masks(header.frame, host?.masks ?? [], header.width, header.height).catch(() => null)
    if (masks && last === header && !real.value) draw(null, masks)
    for (const mask of masks?.values() ?? []) mask.close()
  }

  watch(on, async (now) => {
    if (!now) return
    await seat()
    await renew()
  })
  watch([sitting, screen, () => effect.value?.still], () => on.value && void seat())
  watch([real, on], () => stream.setWays({ replaced: real.value !== null, copied: on.value }))
  watch(real, (now) => {
    // What the trackers or the stand-in's truth said of the other camera is not kept.
    key = ''
    void renew()
    if (now) requestAnimationFrame(drawReal)
    else stream.setView({})
  })

  /** The real camera's picture as it is now, bare below and through the program above it; again with the next display frame. */
  function drawReal(time: number): void {
    const camera = real.value
    if (!camera) return
    const [width, height] = size.value
    const round = host?.rehearsed?.frames
    const frame = round ? Math.floor((time / 1000) * RATE) % round : Math.floor((time / 1000) * RATE)
    const seen = frame !== last?.frame ? camera.seen(width, height, host?.masks ?? [], host?.readsFaces) : null
    if (seen) {
      last = { width, height, frame }
      void createImageBitmap(seen.picture).then((picture) => real.value && stream.paint(picture))
      if (host) {
        host.faces = seen.faces.map((points) => faceOf(points, width, height))
        draw(seen.picture, seen.masks)
        if (camera.trouble) trouble.value = camera.trouble
      }
    }
    requestAnimationFrame(drawReal)
  }

  async function seat(): Promise<void> {
    standIn = await StandIn.open(sitting.value, screen.value, effect.value?.still).catch(() => null)
    if (last && looks() && !real.value) void masked(last)
  }

  watch(effect, () => {
    window.clearTimeout(timer)
    timer = window.setTimeout(renew, SETTLE_MS)
  })
  onBeforeUnmount(() => {
    window.clearTimeout(timer)
    window.clearTimeout(byItself)
    asking.abort()
    host?.close()
    for (const picture of held) picture.close()
  })

  return {
    on,
    wanted,
    away,
    screen,
    size,
    masks,
    trouble,
    score,
    onScored(listener: (frame: number, values: number[]) => void): () => void {
      listeners.add(listener)
      return () => void listeners.delete(listener)
    },
    /** What a hand does, as the stream has it. */
    done({ touch, cue, dials, anew }: Done): void {
      if (!host) return
      if (anew) host.rehearsal = new Rehearsal()
      if (touch) host.touch(touch.down, touch.u, touch.v, { turn: touch.turn ?? 0, scale: touch.scale ?? 1 })
      if (cue) host.cue(cue)
      if (dials) host.turn(dials)
      if (dials) draw(null)
    },
    performed: (): RehearsalData => ({ ...(host?.rehearsal ?? new Rehearsal()).write(), frames: Math.max(1, (last?.frame ?? 0) + 1) }),
    rehearse(on: boolean): void {
      rehearsing = on
      seated()
    },
    toggle(): void {
      trial = null
      window.clearTimeout(byItself)
      wanted.value = !wanted.value
      choosePython(!wanted.value)
    },
    attach: (element: HTMLCanvasElement | null) => (canvas = element),
    /** What is known of the camera has changed. */
    reseat: () => void (on.value && seat()),
    /** Layers that are left out while looking. */
    leaveOut(layers: string[]): void {
      muted = layers
      draw(null)
    },
    /** A control's move, seen at once where it is a number. */
    move(layer: string, control: string, value: Plain): void {
      if (!host || !on.value) return
      // Opacity and switch are drawn as the effect has them.
      const moved = uniforms(uniformOf(address(layer, control)), value)
      Object.assign(host.uniforms, moved)
      Object.assign(heard, moved)
      draw(null)
    },
  }
}

export type Gpu = ReturnType<typeof useGpu>
