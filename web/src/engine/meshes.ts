/** Draws meshes into pictures of attributes: u, v, depth, coverage. Which triangle is nearest is told by a depth buffer. */
import { linked } from './linking'
import type { Moment } from './moment'
import type { Surfaces } from './surfaces'
import { trianglesOf, type MeshData, type MeshPass } from './triangles'

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

export class Meshes {
  private program: WebGLProgram | null = null
  private buffer: WebGLBuffer | null = null
  private array: WebGLVertexArrayObject | null = null

  constructor(private readonly gl: WebGL2RenderingContext) {}

  /** `numbers`: what moves the mesh in this moment. */
  draw(surfaces: Surfaces, pass: MeshPass, numbers: number[], moment: Moment, mesh: MeshData | undefined): void {
    const { gl } = this
    const program = this.ready()
    const { columns, rows } = moment.screen
    surfaces.begin({ name: pass.name, channels: 4, reduce: 1, precise: true, keeps: null, depth: true }, columns, rows)
    const corners = trianglesOf(pass, numbers, moment, mesh)
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
