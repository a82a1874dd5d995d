// @vitest-environment jsdom
/** Who draws the picture to begin with. Names as browsers give them, from memory. */
import { beforeEach, expect, it } from 'vitest'
import { choosePython, isProcessor, isPythons } from '../src/features/picture/device'

beforeEach(() => localStorage.clear())

it.each([
  ['ANGLE (Google, Vulkan 1.3.0 (SwiftShader Device (Subzero) (0x0000C0DE)), SwiftShader driver)', false],
  ['llvmpipe (LLVM 15.0.6, 256 bits)', false],
  ['Mesa/X.org, softpipe', false],
  ['ANGLE (Microsoft, Microsoft Basic Render Driver Direct3D11 vs_5_0 ps_5_0, D3D11)', false],
  ['Software Renderer', false],
  ['', false],
  ['ANGLE (Vendor, Vendor(R) Graphics 620 Direct3D11 vs_5_0 ps_5_0, D3D11)', true],
  ['Vendor G78 MP14', true],
])('%s: %s', (name, real) => {
  expect(isProcessor(name)).toBe(real)
})

it('is Python where somebody went back to it, until the device is chosen again', () => {
  expect(isPythons()).toBe(false)
  choosePython(true)
  expect(isPythons()).toBe(true)
  choosePython(false)
  expect(isPythons()).toBe(false)
})
