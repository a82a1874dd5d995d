/** Who draws the picture to begin with: this device, where it has a graphics processor of its own, and Python elsewhere. */

const BY_PYTHON = 'picture by python'
/** A trial showed in this tab that the device does not keep up. */
let isSlow = false
/** Names under which a browser draws without a graphics processor. */
const SOFTWARE = /swiftshader|llvmpipe|softpipe|lavapipe|software|basic render/i
/** Milliseconds that a frame may take on a device that is to draw thirty a second and do all else. */
const SLOW_MS = 16
/** Frames that are timed; the first ones build. */
export const TIMED = 8

/** Whether a renderer, by its name, is a graphics processor. */
export const isProcessor = (renderer: string): boolean => renderer !== '' && !SOFTWARE.test(renderer)

/** The name of what draws WebGL here; none where nothing does, or it is kept secret. */
function rendererName(): string {
  const gl = new OffscreenCanvas(1, 1).getContext('webgl2')
  if (!gl) return ''
  const told = gl.getExtension('WEBGL_debug_renderer_info')
  const name = String(gl.getParameter(told ? told.UNMASKED_RENDERER_WEBGL : gl.RENDERER) ?? '')
  gl.getExtension('WEBGL_lose_context')?.loseContext()
  return name
}

/** Whether this device is to be tried: it has a graphics processor, did not fail before, and nobody chose Python. */
export const isToBeTried = (): boolean => !isSlow && !isPythons() && isProcessor(rendererName())
/** Whether the quickest of the frames on trial was quick enough. */
export function keepsUp(trial: number[]): boolean {
  isSlow = Math.min(...trial) > SLOW_MS
  return !isSlow
}

/** Whether somebody went back to Python by hand: then it is Python's to begin with here. */
export const isPythons = (): boolean => localStorage.getItem(BY_PYTHON) !== null
export function choosePython(python: boolean): void {
  if (python) localStorage.setItem(BY_PYTHON, 'yes')
  else localStorage.removeItem(BY_PYTHON)
}

/** Milliseconds until a drawn frame is there: reading a pixel waits for it. */
export function drawnMs(canvas: HTMLCanvasElement, draw: () => void): number {
  const began = performance.now()
  draw()
  const gl = canvas.getContext('webgl2')
  gl?.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
  return performance.now() - began
}
