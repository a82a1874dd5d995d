/**
 * Smaller copies of textures, each half as wide and as high as the one before, for what is seen small, as
 * core/material/smaller.py has them: in whole numbers, so they are the same to the bit.
 */
import { linked, SCREEN } from './linking'
import type { Surface, Surfaces } from './surfaces'

/** The texture `name` is the copy of another that suits the pixels over which that is seen, which the signal at `wide` has. */
export interface CopyPass {
  name: string
  of: string
  wide: number
}

const FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
precision highp sampler2D;
uniform sampler2D larger;
uniform uvec2 size;
out vec4 result;
uvec3 shares(uint n, uint whole, uint half_) {
  if (whole == 1u) return uvec3(128u, 0u, 0u);
  if (whole % 2u == 0u) return uvec3(64u, 64u, 0u);
  uint first = (256u * (half_ - n) + whole) / (2u * whole), last = (256u * (n + 1u) + whole) / (2u * whole);
  return uvec3(first, 128u - first - last, last);
}
void main() {
  uvec2 whole = uvec2(textureSize(larger, 0)), at = uvec2(gl_FragCoord.xy);
  uvec3 across = shares(at.x, whole.x, size.x), down = shares(at.y, whole.y, size.y);
  uvec3 sum = uvec3(0u);
  uint alpha = 0u;
  for (uint y = 0u; y < 3u; y++) for (uint x = 0u; x < 3u; x++) {
    uvec4 texel = uvec4(texelFetch(larger, ivec2(min(2u * at + uvec2(x, y), whole - 1u)), 0) * 255.0 + 0.5);
    uint much = down[y] * across[x] * texel.a;
    sum += much * texel.rgb;
    alpha += much;
  }
  uvec3 colour = alpha == 0u ? uvec3(0u) : (2u * sum + alpha) / (2u * alpha);
  result = vec4(uvec4(colour, (alpha + 8192u) / 16384u)) / 255.0;
}`

/** How many times a texture of so many columns is halved where it is seen over so many pixels. */
export function halvings(columns: number, wide: number): number {
  let count = 0
  for (let times = wide > 0 ? columns / wide : 0; times > Math.SQRT2 && columns >> count > 1; times *= 0.5) count++
  return count
}

/** A texture and those made of it. */
interface Chain {
  filled: number | undefined
  sizes: Surface[]
}

export class Copies {
  private gl: WebGL2RenderingContext | null = null
  private program: WebGLProgram | null = null
  private readonly chains = new Map<string, Chain>()

  constructor(private readonly passes: CopyPass[]) {}

  /** Textures become the copies that suit this frame. */
  show(surfaces: Surfaces, numbers: number[]): void {
    for (const { name, of, wide } of this.passes) {
      const larger = surfaces.at(of)
      if (!larger) continue
      let chain = this.chains.get(of)
      if (chain?.sizes[0] !== larger || chain.filled !== larger.filled) {
        this.drop(chain)
        chain = { filled: larger.filled, sizes: [larger] }
        this.chains.set(of, chain)
      }
      const count = halvings(larger.width, numbers[wide] ?? 0)
      while (chain.sizes.length <= count) chain.sizes.push(this.halved(surfaces, chain.sizes.at(-1) ?? larger))
      surfaces.at(name, chain.sizes[count])
    }
  }

  private halved(surfaces: Surfaces, larger: Surface): Surface {
    const { gl } = surfaces
    this.gl = gl
    const program = (this.program ??= linked(gl, SCREEN, FRAGMENT))
    const [width, height] = [larger.width, larger.height].map((side) => Math.max(1, side >> 1)) as [number, number]
    const texture = surfaces.texture(gl.TEXTURE_2D)
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA8, width, height)
    const buffer = gl.createFramebuffer()
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer)
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0)
    gl.viewport(0, 0, width, height)
    gl.useProgram(program)
    gl.activeTexture(gl.TEXTURE0)
    gl.bindTexture(gl.TEXTURE_2D, larger.texture)
    gl.uniform1i(gl.getUniformLocation(program, 'larger'), 0)
    gl.uniform2ui(gl.getUniformLocation(program, 'size'), width, height)
    gl.drawArrays(gl.TRIANGLES, 0, 3)
    return { texture, buffer, width, height }
  }

  private drop(chain: Chain | undefined): void {
    for (const { texture, buffer } of chain?.sizes.slice(1) ?? []) {
      this.gl?.deleteTexture(texture)
      this.gl?.deleteFramebuffer(buffer)
    }
  }

  /** The device has lost its textures. */
  forget(): void {
    this.chains.clear()
    this.program = null
  }

  close(): void {
    for (const chain of this.chains.values()) this.drop(chain)
    this.gl?.deleteProgram(this.program)
  }
}
