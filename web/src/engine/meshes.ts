/** Draws meshes into pictures of attributes: u, v, depth, coverage. Which triangle is nearest is told by a depth buffer. */
import { linked } from './linking'
import { hold, LAG, type HeldFaces } from './held'
import type { Moment } from './moment'
import type { Beside } from './signals'
import type { Surfaces } from './surfaces'
import { materialOf, trianglesOf, type FaceModel, type MeshData, type MeshPass, type Solid } from './triangles'

const VERTEX = `#version 300 es
in vec4 position;
in vec4 attributes;
out vec4 carried;
void main() {
  gl_Position = position;
  carried = attributes;
}`
const FRAGMENT = `#version 300 es
precision highp float;
in vec4 carried;
out vec4 result;
void main() {
  result = carried;
}`
const BYTES = 4
const CORNER = 8

/** The faces that meshes are drawn on, by the mesh's name, from frame to frame. */
export class Faces implements Beside {
  private held = new Map<string, HeldFaces>()
  private kept = new Map<string, HeldFaces>()

  /** `readByName`: whether signals read them, too. */
  constructor(
    private readonly passes: MeshPass[],
    private readonly readByName: boolean,
  ) {}

  clear(): void {
    this.held = new Map()
  }
  keep(): void {
    this.kept = new Map(this.held)
  }
  back(): void {
    this.held = new Map(this.kept)
  }
  begin(moment: Moment): void {
    if (this.readByName) this.held.set('', hold(this.held.get(''), moment, LAG))
  }
  read(name: string): number {
    const [, number, point, axis] = /^held:([01])\.(?:there|(\d+)\.([uvz]))$/.exec(name) ?? []
    const face = this.now('')[Number(number)]
    return (axis ? face?.points[3 * Number(point) + 'uvz'.indexOf(axis)] : face?.there) ?? 0
  }
  step(moment: Moment, numbers: number[]): void {
    for (const pass of this.passes) this.held.set(pass.name, hold(this.held.get(pass.name), moment, numbers[pass.numbers[0] ?? -1] ?? 0))
  }
  now(name: string): HeldFaces {
    return this.held.get(name) ?? []
  }
}

export class Meshes {
  private program: WebGLProgram | null = null
  private buffer: WebGLBuffer | null = null
  private array: WebGLVertexArrayObject | null = null

  constructor(
    private readonly gl: WebGL2RenderingContext,
    private readonly faces: Faces,
  ) {}

  /** `numbers`: what moves the mesh in this moment; `models`: meshes of material, by id. */
  draw(surfaces: Surfaces, pass: MeshPass, numbers: number[], moment: Moment, models: ReadonlyMap<string, MeshData> | undefined, beside: { face?: FaceModel; head?: Solid }): void {
    const { gl } = this
    const program = this.ready()
    const { columns, rows } = moment.screen
    surfaces.begin({ name: pass.name, channels: 4, reduce: 1, precise: true, keeps: null, depth: true }, columns, rows)
    const corners = trianglesOf(pass, numbers, moment, models?.get(materialOf(pass)), beside, this.faces.now(pass.name))
    gl.useProgram(program)
    gl.bindVertexArray(this.array)
    gl.bindBuffer(gl.ARRAY_BUFFER, this.buffer)
    gl.bufferData(gl.ARRAY_BUFFER, corners, gl.STREAM_DRAW)
    gl.clearColor(0, 0, 0, 0)
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT)
    gl.enable(gl.DEPTH_TEST)
    gl.depthFunc(gl.LESS)
    gl.drawArrays(gl.TRIANGLES, 0, corners.length / CORNER)
    gl.disable(gl.DEPTH_TEST)
    gl.bindVertexArray(null)
  }

  private ready(): WebGLProgram {
    if (this.program) return this.program
    const { gl } = this
    this.program = linked(gl, VERTEX, FRAGMENT)
    this.array = gl.createVertexArray()
    this.buffer = gl.createBuffer()
    gl.bindVertexArray(this.array)
    gl.bindBuffer(gl.ARRAY_BUFFER, this.buffer)
    for (const [name, offset] of [
      ['position', 0],
      ['attributes', 4],
    ] as const) {
      const place = gl.getAttribLocation(this.program, name)
      gl.enableVertexAttribArray(place)
      gl.vertexAttribPointer(place, 4, gl.FLOAT, false, CORNER * BYTES, offset * BYTES)
    }
    gl.bindVertexArray(null)
    return this.program
  }

  close(): void {
    this.gl.deleteProgram(this.program)
    this.gl.deleteBuffer(this.buffer)
    this.gl.deleteVertexArray(this.array)
    this.program = null
  }
}
