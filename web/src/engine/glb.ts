/** Reads meshes as they are kept: a .glb of one mesh, one primitive and one texture. As core/material/glb.py writes them. */
import type { MeshData, Motion } from './triangles'

interface Accessor {
  bufferView: number
  componentType: number
  count: number
  type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4'
}
interface Gltf {
  accessors: Accessor[]
  bufferViews: { byteOffset: number; byteLength: number }[]
  meshes: { primitives: { attributes: Record<string, number>; indices: number }[]; extras?: { motions?: { name: string; rate: number; parts: number; accessor: number }[] } }[]
  images?: { bufferView: number; mimeType: string }[]
}

const HEADER = 12
const CHUNK = 8
const UNSIGNED = 5125
const WIDTHS = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }
/** Centimetres of a metre. */
const METRE = 100
const ROW = 4

/** A mesh, and its texture where it has one. Throws where it is none. */
export async function readGlb(file: ArrayBuffer): Promise<{ mesh: MeshData; texture: ImageBitmap | null }> {
  const view = new DataView(file)
  if (file.byteLength < HEADER + CHUNK || view.getUint32(0, true) !== 0x46546c67) throw new Error('A mesh of this effect cannot be read.')
  const length = view.getUint32(HEADER, true)
  const plain = JSON.parse(new TextDecoder().decode(new Uint8Array(file, HEADER + CHUNK, length))) as Gltf
  const start = HEADER + CHUNK + length + CHUNK
  const numbers = (at: number): Float64Array => {
    const one = plain.accessors[at] as Accessor
    const count = one.count * WIDTHS[one.type]
    const from = start + (plain.bufferViews[one.bufferView]?.byteOffset ?? 0)
    return Float64Array.from(one.componentType === UNSIGNED ? new Uint32Array(file, from, count) : new Float32Array(file, from, count))
  }
  const [first] = plain.meshes
  const primitive = first?.primitives[0]
  if (!first || !primitive) throw new Error('A mesh of this effect holds no triangles.')
  const attribute = (name: string): Float64Array | undefined => (primitive.attributes[name] === undefined ? undefined : numbers(primitive.attributes[name]))
  const motions = (first.extras?.motions ?? []).map(({ rate, parts, accessor }): Motion => {
    const matrices = numbers(accessor)
    for (let n = ROW - 1; n < matrices.length; n += ROW) matrices[n] = (matrices[n] ?? 0) * METRE
    return { rate, parts, matrices }
  })
  const mesh: MeshData = {
    vertices: (attribute('POSITION') ?? new Float64Array()).map((part) => part * METRE),
    places: attribute('TEXCOORD_0') ?? new Float64Array(),
    triangles: numbers(primitive.indices),
    normals: attribute('NORMAL'),
    colours: attribute('COLOR_0'),
    parts: attribute('_PART'),
    motions,
  }
  const [image] = plain.images ?? []
  if (!image) return { mesh, texture: null }
  const held = plain.bufferViews[image.bufferView]
  const data = new Blob([new Uint8Array(file, start + (held?.byteOffset ?? 0), held?.byteLength ?? 0)], { type: image.mimeType })
  return { mesh, texture: await createImageBitmap(data, { premultiplyAlpha: 'none', colorSpaceConversion: 'none' }) }
}
