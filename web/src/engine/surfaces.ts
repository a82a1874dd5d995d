/** Textures of a player: the camera, pictures and tables it was given, targets of passes, and those kept for the next frame. */

const CURVE_WIDTH = 2048

export interface Surface {
  texture: WebGLTexture
  buffer: WebGLFramebuffer | null
  depth?: WebGLRenderbuffer
  width: number
  height: number
  /** What it was made for, where a pass fills it. */
  target?: Target
  /** How often a picture from outside was put into it. */
  filled?: number
}

/** What a pass fills; rows and columns are the frame's divided by `reduce`. */
export interface Target {
  name: string
  channels: number
  reduce: number
  precise: boolean
  keeps: string | null
  /** Whether it has a depth buffer. */
  depth?: boolean
}

export class Surfaces {
  /** By names of pictures; those for the next frame are `kept:ID`. */
  readonly held = new Map<string, Surface>()
  private readonly tables = new Map<number, { kind: number; texture: WebGLTexture }>()
  private readonly written = new Map<string, Surface>()
  private readonly floats: boolean
  private readonly halves: boolean
  private frame = -1

  constructor(readonly gl: WebGL2RenderingContext) {
    this.floats = gl.getExtension('EXT_color_buffer_float') !== null
    this.halves = this.floats || gl.getExtension('EXT_color_buffer_half_float') !== null
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false)
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE)
  }

  texture(kind: number): WebGLTexture {
    const gl = this.gl
    const texture = gl.createTexture()
    gl.bindTexture(kind, texture)
    for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(kind, filter, gl.NEAREST)
    for (const wrap of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(kind, wrap, gl.CLAMP_TO_EDGE)
    return texture
  }

  /** A picture from outside, row 0 at the top. */
  upload(name: string, picture: TexImageSource): void {
    const gl = this.gl
    let surface = this.held.get(name)
    if (!surface) {
      surface = { texture: this.texture(gl.TEXTURE_2D), buffer: null, width: 0, height: 0 }
      this.held.set(name, surface)
    }
    gl.activeTexture(gl.TEXTURE0)
    gl.bindTexture(gl.TEXTURE_2D, surface.texture)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, picture)
    surface.filled = (surface.filled ?? 0) + 1
    ;({ width: surface.width, height: surface.height } = picture as ImageBitmap)
  }

  uploadTable(place: number, kind: 'cube' | 'curve', size: number, flat: Float32Array): void {
    const gl = this.gl
    const entries = flat.length / 3
    const rows = kind === 'curve' ? Math.ceil(entries / CURVE_WIDTH) : 1
    const padded = new Float32Array((kind === 'curve' ? rows * CURVE_WIDTH : entries) * 4)
    for (let e = 0; e < entries; e++) padded.set(flat.subarray(3 * e, 3 * e + 3), 4 * e)
    const target = kind === 'cube' ? gl.TEXTURE_3D : gl.TEXTURE_2D
    const texture = this.texture(target)
    if (kind === 'cube') gl.texImage3D(target, 0, gl.RGBA32F, size, size, size, 0, gl.RGBA, gl.FLOAT, padded)
    else gl.texImage2D(target, 0, gl.RGBA32F, CURVE_WIDTH, rows, 0, gl.RGBA, gl.FLOAT, padded)
    this.tables.set(place, { kind: target, texture })
  }

  bindTable(place: number, unit: number): number {
    const table = this.tables.get(place)
    this.gl.activeTexture(this.gl.TEXTURE0 + unit)
    if (table) this.gl.bindTexture(table.kind, table.texture)
    return unit
  }

  /** Puts a picture where a shader reads it; one that nobody gave is a black and clear pixel. */
  bind(name: string, unit: number): number {
    const gl = this.gl
    gl.activeTexture(gl.TEXTURE0 + unit)
    let surface = this.held.get(name)
    if (!surface) {
      surface = { texture: this.texture(gl.TEXTURE_2D), buffer: null, width: 1, height: 1 }
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, 1, 1, 0, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
      this.held.set(name, surface)
    }
    gl.bindTexture(gl.TEXTURE_2D, surface.texture)
    return unit
  }

  /** Draw into a pass's target from now on, or onto the canvas; gives its columns and rows. */
  begin(target: Target | null, width: number, height: number): [number, number] {
    const gl = this.gl
    const size: [number, number] = target ? [Math.ceil(width / target.reduce), Math.ceil(height / target.reduce)] : [width, height]
    let buffer: WebGLFramebuffer | null = null
    if (target) {
      let surface = this.held.get(target.name)
      if (!surface || surface.width !== size[0] || surface.height !== size[1]) {
        if (surface) this.drop(surface)
        surface = this.made(size, target)
        this.held.set(target.name, surface)
      }
      if (target.keeps) this.written.set(`kept:${target.keeps}`, surface)
      buffer = surface.buffer
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer)
    gl.viewport(0, 0, ...size)
    return size
  }

  /** Memory that a pass fills. */
  made([width, height]: [number, number], target: Target): Surface {
    const { channels, precise, depth: deep } = target
    const gl = this.gl
    const place = channels > 2 ? 2 : channels - 1
    const single = [gl.R32F, gl.RG32F, gl.RGBA32F][place] ?? gl.RGBA32F
    const half = [gl.R16F, gl.RG16F, gl.RGBA16F][place] ?? gl.RGBA16F
    const format = precise && this.floats ? single : this.halves ? half : gl.RGBA8
    const texture = this.texture(gl.TEXTURE_2D)
    gl.texStorage2D(gl.TEXTURE_2D, 1, format, width, height)
    const buffer = gl.createFramebuffer()
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer)
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0)
    gl.clearColor(0, 0, 0, 0)
    gl.clear(gl.COLOR_BUFFER_BIT)
    if (!deep) return { texture, buffer, width, height, target }
    const depth = gl.createRenderbuffer()
    gl.bindRenderbuffer(gl.RENDERBUFFER, depth)
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.DEPTH_COMPONENT24, width, height)
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.RENDERBUFFER, depth)
    return { texture, buffer, depth, width, height, target }
  }

  /** At a new frame, what the last one wrote to be kept can be read; the surface that was read until now is written next. */
  startFrame(frame: number): void {
    if (frame === this.frame) return
    this.frame = frame
    for (const [kept, fresh] of this.written) {
      const before = this.held.get(kept)
      const name = [...this.held].find(([key, surface]) => surface === fresh && !key.startsWith('kept:'))?.[0]
      this.held.set(kept, fresh)
      if (!name) continue
      if (before?.buffer && before.width === fresh.width && before.height === fresh.height) this.held.set(name, before)
      else {
        if (before) this.drop(before)
        this.held.delete(name)
      }
    }
    this.written.clear()
  }

  /** What is held under a name; `give` holds something there. */
  at(name: string, give?: Surface): Surface | undefined {
    if (give) this.held.set(name, give)
    return this.held.get(name)
  }

  drop(surface: Surface): void {
    this.gl.deleteTexture(surface.texture)
    if (surface.buffer) this.gl.deleteFramebuffer(surface.buffer)
    if (surface.depth) this.gl.deleteRenderbuffer(surface.depth)
  }

  close(): void {
    for (const surface of this.held.values()) this.drop(surface)
    for (const table of this.tables.values()) this.gl.deleteTexture(table.texture)
    this.held.clear()
    this.tables.clear()
  }
}
