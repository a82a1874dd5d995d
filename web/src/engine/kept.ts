/** Pictures that are kept for the next frame, where the frame's size changes. */
import type { Surfaces } from './surfaces'

/** Brings kept pictures to the size of the frame: its shape is cut out of their middle. */
export function fitKept(surfaces: Surfaces, width: number, height: number): void {
  const { gl, held } = surfaces
  for (const [name, before] of held) {
    if (!name.startsWith('kept:') || !before.target || (before.width === width && before.height === height)) continue
    const now = surfaces.made([width, height], before.target)
    const left = Math.max(0, Math.round((before.width - (before.height * width) / height) / 2))
    const top = Math.max(0, Math.round((before.height - (before.width * height) / width) / 2))
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, before.buffer)
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, now.buffer)
    gl.blitFramebuffer(left, top, before.width - left, before.height - top, 0, 0, width, height, gl.COLOR_BUFFER_BIT, gl.LINEAR)
    surfaces.drop(before)
    held.set(name, now)
  }
}
