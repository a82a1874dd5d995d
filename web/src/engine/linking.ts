/** Of three vertices, a triangle over the whole target. */
export const SCREEN = `#version 300 es
void main() {
  gl_Position = vec4(vec2((gl_VertexID << 1) & 2, gl_VertexID & 2) * 2.0 - 1.0, 0.0, 1.0);
}`

/** Shaders to a program of the device. Throws with plain words where it cannot run them. */
export function linked(gl: WebGL2RenderingContext, vertex: string, fragment: string): WebGLProgram {
  const program = gl.createProgram()
  for (const [kind, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(kind)
    if (!shader) throw new Error('The graphics context was lost while starting.')
    gl.shaderSource(shader, text)
    gl.compileShader(shader)
    gl.attachShader(program, shader)
    gl.deleteShader(shader)
  }
  gl.linkProgram(program)
  if (!gl.getProgramParameter(program, gl.LINK_STATUS) && !gl.isContextLost()) {
    const said = gl.getProgramInfoLog(program) || (gl.getAttachedShaders(program) ?? []).map((s) => gl.getShaderInfoLog(s)).join(' ')
    gl.deleteProgram(program)
    throw new Error(`This device cannot run the effect: ${said || 'no reason given'}`)
  }
  return program
}
