/** Runs a program with WebGL2: signals once a frame, then its passes in order. Knows nothing of Vue or of editing. */
import type { Dial } from './dials'
import type { CopyPass } from './copies'
import type { Film, Films, Upload } from './films'
import { linked, SCREEN } from './linking'
import type { Faces, Meshes } from './meshes'
import { quietMoment, type Moment } from './moment'
import type { Painting } from './painting'
import { holdsFaces, partsOf, readsFaces, type Parts } from './parts'
import { Signals, type SignalData } from './signals'
import { Surfaces, type Target } from './surfaces'
import type { FaceModel, MeshData, MeshPass, Solid } from './triangles'

export interface ProgramTable {
  file: string
  kind: 'cube' | 'curve'
  size: number
}

export interface ProgramPass {
  fragment: string
  target: Target | null
  pictures: string[]
  tables: number[]
  floats: number[]
  ints: number[]
  /** Whether it reads the camera's person mask. */
  person: boolean
  enabled: number | null
  /** Whether it hangs on nothing but its numbers and the artist's pictures: it is drawn again only when one of them is another. */
  lasting?: boolean
}

export interface Program {
  version: number
  name: string
  rate: number
  /** Of the effect; that of a moment is added to it. */
  seed?: number
  uniforms: Record<string, number>
  signals: SignalData
  tables: ProgramTable[]
  /** A painting is drawn here. */
  pictures: { name: string; file: string | null; painting?: Painting }[]
  uploads?: Upload[]
  /** The files of sequences, by id, and for how many ticks each picture is shown. */
  sequences?: Record<string, { files: string[]; holds: number[] }>
  copies?: CopyPass[]
  meshes?: MeshPass[]
  /** The files of meshes, by id. */
  models?: Record<string, string>
  /** The head that hides meshes behind it. */
  head?: Solid
  /** The skin of a face, where a mesh is one. */
  face?: FaceModel
  /** What the wearer may turn. */
  dials?: Dial[]
  passes: ProgramPass[]
}

/** What a program reads: three floats a table's entry, in order; pictures by name; and the parts of the player that it needs. */
export interface Material {
  tables: Float32Array[]
  pictures: Map<string, ImageBitmap | ImageData>
  /** Sequences, by id. */
  sequences?: Map<string, Film>
  /** By id. */
  meshes?: Map<string, MeshData>
  parts: Parts
}

interface Built {
  pass: ProgramPass
  program: WebGLProgram
  place: (name: string) => WebGLUniformLocation | null
  /** Of a lasting pass: with which numbers it was drawn. */
  drawn?: string
}

/** What a camera shows: its picture, and masks of its shape, white inside, by the names of `masks`; what is left out stays. */
export interface Seen {
  picture?: TexImageSource | null
  masks?: ReadonlyMap<string, TexImageSource>
}

/** Names of the opacities of layers; before version 5 of effects they were called otherwise. */
const OPACITY = /\.(layer:)?opacity$/
/** The version from which on shaders take a pass's numbers as vectors of four; before, one by one. */
const BY_FOURS = 3

/** Numbers filled up to whole vectors of four. */
function byFours(numbers: number[]): number[] {
  return [...numbers, ...Array<number>((4 - (numbers.length % 4)) % 4).fill(0)]
}

export class Player {
  private readonly gl: WebGL2RenderingContext
  private surfaces: Surfaces
  private built: Built[] = []
  private meshes: Meshes | null = null
  private signals: Signals
  private readonly faces: Faces | null
  private readonly films: Films | null
  private lost = false
  /** Nothing was drawn yet, or since the device came back: the next draw needs a picture. */
  blank = true
  private readonly closed = new AbortController()
  readonly uniforms: Record<string, number>
  /** Draw the camera without the effect: with every layer clear, a program gives it exactly. */
  bare = false
  private readonly clear: Record<string, number>

  /** Throws with plain words where this device cannot run the program. */
  constructor(
    readonly canvas: HTMLCanvasElement | OffscreenCanvas,
    private readonly source: Program,
    private readonly material: Material,
  ) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false, preserveDrawingBuffer: true })
    if (!gl) throw new Error('This browser has no WebGL 2, which the effect needs.')
    this.gl = gl as WebGL2RenderingContext
    this.uniforms = { ...source.uniforms }
    this.clear = Object.fromEntries(Object.keys(source.uniforms).flatMap((name) => (OPACITY.test(name) ? [[name, 0]] : [])))
    this.signals = new Signals(source.signals, source.seed)
    const { solids, films } = material.parts
    this.faces = solids ? new solids.Faces((source.meshes ?? []).filter((mesh) => mesh.kind === 'face'), holdsFaces(source)) : null
    this.signals.beside = this.faces
    this.films = films ? new films.Films(source.uploads ?? [], source.copies ?? [], material.sequences ?? new Map()) : null
    const { signal } = this.closed
    canvas.addEventListener(
      'webglcontextlost',
      (event) => {
        event.preventDefault()
        this.lost = this.blank = true
      },
      { signal },
    )
    canvas.addEventListener(
      'webglcontextrestored',
      () => {
        this.lost = false
        this.surfaces = new Surfaces(this.gl)
        this.films?.forget()
        this.build()
      },
      { signal },
    )
    this.surfaces = new Surfaces(this.gl)
    try {
      this.build()
    } catch (error) {
      this.close()
      throw error
    }
  }

  /** Whether a picture of a sequence was not ready when the last frame was drawn. */
  get behind(): boolean {
    return this.films?.behind ?? false
  }

  /** Whether it needs the faces of moments. */
  get readsFaces(): boolean {
    return readsFaces(this.source)
  }

  get rate(): number {
    return this.source.rate
  }

  /** The masks that the program reads of a camera: `person`, and `region:NAME`. */
  get masks(): string[] {
    const regions = this.source.passes.flatMap((pass) => pass.pictures.filter((name) => name.startsWith('region:')))
    return [...(this.source.passes.some((pass) => pass.person) ? ['person'] : []), ...new Set(regions)]
  }

  /**
   * Draw a moment: what a camera shows through the program. A mask that never came is empty. `missed` gives the moments of frames
   * that nobody saw.
   */
  draw(moment: Moment, seen: Seen = {}, missed: (frame: number) => Moment | undefined = () => undefined): void {
    const gl = this.gl
    if (this.lost || !this.built.length) return
    const { columns: width, rows: height } = moment.screen
    if (this.canvas.width !== width || this.canvas.height !== height) {
      this.canvas.width = width
      this.canvas.height = height
    }
    this.surfaces.startFrame(moment.clock.frame)
    this.material.parts.kept?.fitKept(this.surfaces, width, height)
    if (seen.picture) {
      this.surfaces.upload('camera', seen.picture)
      this.blank = false
    }
    for (const [name, mask] of seen.masks ?? []) this.surfaces.upload(name, mask)
    const uniforms = this.bare ? { ...this.uniforms, ...this.clear } : this.uniforms
    const numbers = this.signals.at(moment, uniforms, (n) => missed(n) ?? quietMoment(n, width, height, this.rate))
    this.films?.show(numbers, this.surfaces)
    for (const mesh of this.source.meshes ?? []) {
      this.meshes?.draw(this.surfaces, mesh, mesh.numbers.map((at) => numbers[at] ?? 0), moment, this.material.meshes, this.source)
    }
    let known = ''
    for (const one of this.built) {
      const { pass, program, place } = one
      if (pass.enabled !== null && !numbers[pass.enabled]) continue
      if (pass.lasting) {
        // With the numbers of those before it, which it may read.
        known += [width, height, ...[...pass.floats, ...pass.ints].map((at) => numbers[at])].join()
        if (one.drawn === known) continue
        one.drawn = known
      }
      gl.useProgram(program)
      const size = this.surfaces.begin(pass.target, width, height)
      gl.uniform2i(place('size'), ...size)
      pass.pictures.forEach((name, n) => gl.uniform1i(place(`p${n}`), this.surfaces.bind(name, n)))
      pass.tables.forEach((table, n) => {
        gl.uniform1i(place(`t${n}`), this.surfaces.bindTable(table, pass.pictures.length + n))
        gl.uniform1i(place(`n${n}`), this.source.tables[table]?.size ?? 2)
      })
      if (pass.person) gl.uniform1i(place('person'), this.surfaces.bind('person', pass.pictures.length + pass.tables.length))
      const values = (places: number[]) => places.map((at) => numbers[at] ?? 0)
      if (this.source.version < BY_FOURS) {
        if (pass.floats.length) gl.uniform1fv(place('u'), values(pass.floats))
        if (pass.ints.length) gl.uniform1iv(place('w'), values(pass.ints))
      } else {
        if (pass.floats.length) gl.uniform4fv(place('u'), byFours(values(pass.floats)))
        if (pass.ints.length) gl.uniform4iv(place('w'), byFours(values(pass.ints)))
      }
      gl.drawArrays(gl.TRIANGLES, 0, 3)
    }
  }

  private build(): void {
    const { solids } = this.material.parts
    this.meshes = solids && this.faces ? new solids.Meshes(this.gl, this.faces) : null
    this.built = []
    for (const pass of this.source.passes) {
      const program = linked(this.gl, SCREEN, pass.fragment)
      const places = new Map<string, WebGLUniformLocation | null>()
      const place = (name: string) => {
        if (!places.has(name)) places.set(name, this.gl.getUniformLocation(program, name))
        return places.get(name) ?? null
      }
      this.built.push({ pass, program, place })
    }
    this.source.tables.forEach((table, n) => {
      const flat = this.material.tables[n]
      if (!flat) throw new Error(`The package lacks ${table.file}.`)
      this.surfaces.uploadTable(n, table.kind, table.size, flat)
    })
    for (const [name, picture] of this.material.pictures) this.surfaces.upload(name, picture)
    for (const { name, painting } of this.source.pictures) if (painting) this.show(name, painting)
  }

  /** Whether it reads a picture of this name. */
  reads(name: string): boolean {
    return this.source.pictures.some((one) => one.name === name)
  }

  /** Another painting under a name from now on. */
  paint(name: string, painting: Painting): void {
    const one = this.source.pictures.find((other) => other.name === name)
    if (!one || JSON.stringify(one.painting) === JSON.stringify(painting)) return
    one.painting = painting
    if (!this.lost) this.show(name, painting)
  }

  private show(name: string, painting: Painting): void {
    const drawn = this.material.parts.painting?.painted(painting)
    if (drawn) this.put(name, drawn)
  }

  /** Another picture under a name from now on. */
  give(name: string, picture: ImageBitmap): void {
    this.material.pictures.set(name, picture)
    if (!this.lost) this.put(name, picture)
  }

  private put(name: string, picture: TexImageSource): void {
    for (const one of this.built) one.drawn = ''
    this.surfaces.upload(name, picture)
  }

  /** Give back what the device holds for this player. */
  close(): void {
    this.closed.abort()
    for (const { program } of this.built) this.gl.deleteProgram(program)
    this.built = []
    this.meshes?.close()
    this.films?.close()
    this.surfaces.close()
  }
}

/** The name of a mesh's texture among the pictures of a program. */
const TEXTURE = 'asset:mesh:'

/** A program's meshes, by id; their textures go among the pictures, white where there is none. */
export async function modelsOf(program: Program, pictures: Material['pictures'], fetched: (file: string) => Promise<ArrayBuffer>): Promise<Map<string, MeshData>> {
  const found = new Map<string, MeshData>()
  if (!Object.keys(program.models ?? {}).length) return found
  const { readGlb } = await import('./glb')
  for (const [id, file] of Object.entries(program.models ?? {})) {
    const { mesh, texture } = await readGlb(await fetched(file))
    found.set(id, mesh)
    pictures.set(`${TEXTURE}${id}`, texture ?? new ImageData(new Uint8ClampedArray(4).fill(255), 1, 1))
  }
  return found
}

/** A program and what it reads from a folder address; `query`: what each file is asked for with; `renewed`: what older programs go through. */
export async function load(folder: string, query = '', renewed = (one: Program): Program => one): Promise<{ program: Program; material: Material }> {
  const fetched = async (file: string) => {
    const answer = await fetch(`${folder}/${file}${query}`)
    if (!answer.ok) throw new Error(`The package's ${file} could not be loaded.`)
    return answer
  }
  const program = renewed((await (await fetched('program.json')).json()) as Program)
  const tables = await Promise.all(
    program.tables.map(async (table) => new Float32Array(await (await fetched(table.file)).arrayBuffer())),
  )
  const pictures = new Map<string, ImageBitmap | ImageData>()
  for (const { name, file } of program.pictures) {
    if (!file) continue
    const options = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' } as const
    pictures.set(name, await createImageBitmap(await (await fetched(file)).blob(), options))
  }
  const sequences = new Map<string, Film>()
  for (const [id, { files, holds }] of Object.entries(program.sequences ?? {})) {
    const { Packed } = await import('./films')
    const film = new Packed(files, holds, async (file) => (await fetched(file)).blob())
    await film.load()
    sequences.set(id, film)
  }
  const meshes = await modelsOf(program, pictures, async (file) => (await fetched(file)).arrayBuffer())
  return { program, material: { tables, pictures, sequences, meshes, parts: await partsOf(program) } }
}
