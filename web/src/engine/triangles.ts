/**
 * From a mesh to triangles on the screen: the host's part of drawing meshes, as core/passes/triangles.py has it. Vertices are
 * projected and clipped in double precision, snapped to sixteenths of a pixel, and handed over as one list without indices.
 */
import type { Held, HeldFaces } from './held'
import type { Moment } from './moment'

const SUBPIXELS = 16
const NEAR = 1
const FAR = 1000
/** Degrees along the longer side of the picture, of a camera about which nothing is known. */
const FIELD_OF_VIEW = 63

/** `vertices`: x, y, z each; `places`: u, v each; `triangles`: three vertices each. */
export interface MeshData {
  vertices: ArrayLike<number>
  places: ArrayLike<number>
  triangles: ArrayLike<number>
}

/** The skin of a face, as core/face/model.py has it: places in its texture, triangles in three parts, and 0 at each vertex of the outline. */
export interface FaceModel {
  places: ArrayLike<number>
  skin: ArrayLike<number>
  mouth: ArrayLike<number>
  eyes: ArrayLike<number>
  rim: ArrayLike<number>
}

export interface MeshPass {
  name: string
  kind: 'face' | 'mesh' | 'grid'
  id: string
  /** Places of the signals that move its vertices. */
  numbers: number[]
}

/** Numbers of a corner: clip position (4), u, v, depth, coverage. */
const CORNER = 8

interface Drawn {
  corners: Float64Array
  triangles: ArrayLike<number>
}

const NOTHING: Drawn = { corners: new Float64Array(), triangles: [] }

function corners(count: number, of: (n: number) => number[]): Float64Array {
  const found = new Float64Array(count * CORNER)
  for (let n = 0; n < count; n++) found.set([...of(n), 1], n * CORNER)
  return found
}

/** How far towards the lens skin looks that is wholly there; less, and it fades. */
const EDGE_ON = 0.35

/** Between the outer corners of the eyes, parts of the picture's width and height. */
function sizeOf(one: Held | null | undefined): number {
  const at = (n: number) => one?.points[n] ?? 0
  return one ? Math.hypot(at(3 * 33) - at(3 * 263), at(3 * 33 + 1) - at(3 * 263 + 1)) : 0
}

/** The number of the face that is meant. */
function which(who: string, held: HeldFaces): number {
  if (who === 'first' || who === 'second') return Number(who === 'second')
  const [first, second] = [Boolean(held[0]), Boolean(held[1])]
  if (who === 'nearest' && first && second) return Number(sizeOf(held[1]) > sizeOf(held[0]))
  return Number(second && !first)
}

/** How far the skin at each vertex looks towards the lens: 1 straight, 0 edge-on, below 0 away. */
function towards(points: Float64Array, model: FaceModel, shape: number): Float64Array {
  const count = model.places.length / 2
  const sums = new Float64Array(3 * count)
  const at = (n: number, axis: number) => (points[3 * n + axis] ?? 0) * (axis === 1 ? shape : 1)
  for (const part of [model.skin, model.mouth, model.eyes])
    for (let t = 0; t < part.length; t += 3) {
      const [a, b, c] = [part[t] ?? 0, part[t + 1] ?? 0, part[t + 2] ?? 0]
      const [p0, p1, p2] = [at(b, 0) - at(a, 0), at(b, 1) - at(a, 1), at(b, 2) - at(a, 2)]
      const [q0, q1, q2] = [at(c, 0) - at(a, 0), at(c, 1) - at(a, 1), at(c, 2) - at(a, 2)]
      for (const n of [a, b, c]) {
        sums[3 * n] = (sums[3 * n] ?? 0) + p1 * q2 - p2 * q1
        sums[3 * n + 1] = (sums[3 * n + 1] ?? 0) + p2 * q0 - p0 * q2
        sums[3 * n + 2] = (sums[3 * n + 2] ?? 0) + p0 * q1 - p1 * q0
      }
    }
  return Float64Array.from({ length: count }, (_, n) => -(sums[3 * n + 2] ?? 0) / Math.max(Math.hypot(sums[3 * n] ?? 0, sums[3 * n + 1] ?? 0, sums[3 * n + 2] ?? 0), 1e-12))
}

/** The skin of faces, flat on the screen; `numbers`: the lag of what is at rest, whether the mouth is covered, and the eyes. */
function ofFaces(who: string, numbers: number[], held: HeldFaces, model: FaceModel | undefined, shape: number): Drawn {
  if (!model) return NOTHING
  const meant = which(who, held)
  const there = held.filter((one, n): one is Held => one !== null && (who === 'everybody' || n === meant)).sort((a, b) => sizeOf(b) - sizeOf(a))
  const parts = [model.skin, ...((numbers[1] ?? 0) > 0.5 ? [model.mouth] : []), ...((numbers[2] ?? 0) > 0.5 ? [model.eyes] : [])]
  const count = model.places.length / 2
  const made = new Float64Array(there.length * count * CORNER)
  const triangles: number[] = []
  there.forEach(({ points, there: much }, rank) => {
    const facing = towards(points, model, shape)
    for (let n = 0; n < count; n++) {
      const [u = 0, v = 0, z = 0] = points.subarray(3 * n, 3 * n + 3)
      const covers = much * (model.rim[n] ?? 0) * Math.min(1, Math.max(0, (facing[n] ?? 0) / EDGE_ON))
      made.set([2 * u - 1, 2 * v - 1, (z + rank) / 4, 1, model.places[2 * n] ?? 0, model.places[2 * n + 1] ?? 0, z, covers], (rank * count + n) * CORNER)
    }
    for (const part of parts) for (let t = 0; t < part.length; t++) triangles.push((part[t] ?? 0) + rank * count)
  })
  return { corners: made, triangles }
}

/** A grid over the screen, each of whose corners is moved by two numbers, row by row. */
function ofGrid(size: string, numbers: number[]): Drawn {
  const [across = 1, down = 1] = size.split('x').map(Number)
  const made = corners((across + 1) * (down + 1), (n) => {
    const [u, v] = [(n % (across + 1)) / across, Math.floor(n / (across + 1)) / down]
    return [2 * (u + (numbers[2 * n] ?? 0)) - 1, 2 * (v + (numbers[2 * n + 1] ?? 0)) - 1, 0, 1, u, v, 0]
  })
  const triangles: number[] = []
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      const first = row * (across + 1) + column
      const below = first + across + 1
      triangles.push(first, first + 1, below, first + 1, below + 1, below)
    }
  return { corners: made, triangles }
}

function product(a: number[], b: number[]): number[] {
  return Array.from({ length: 9 }, (_, n) => {
    const [row, column] = [3 * Math.floor(n / 3), n % 3]
    return (a[row] ?? 0) * (b[column] ?? 0) + (a[row + 1] ?? 0) * (b[column + 3] ?? 0) + (a[row + 2] ?? 0) * (b[column + 6] ?? 0)
  })
}

/** A turn (3 by 3, row by row) of these degrees, as core/face/pose.py has it. */
function rotation(turn: number, nod: number, tilt: number): number[] {
  const [t, n, a] = [turn, nod, tilt].map((degrees) => (degrees * Math.PI) / 180) as [number, number, number]
  const turned = [Math.cos(t), 0, Math.sin(t), 0, 1, 0, -Math.sin(t), 0, Math.cos(t)]
  const nodded = [1, 0, 0, 0, Math.cos(n), -Math.sin(n), 0, Math.sin(n), Math.cos(n)]
  const tilted = [Math.cos(a), -Math.sin(a), 0, Math.sin(a), Math.cos(a), 0, 0, 0, 1]
  return product(product(tilted, nodded), turned)
}

/** A mesh at a place before the lens, turned, nodded and tilted, and scaled. */
function ofMesh(mesh: MeshData | undefined, pose: number[], columns: number, rows: number): Drawn {
  if (!mesh) return NOTHING
  const [x = 0, y = 0, z = 0, turn = 0, nod = 0, tilt = 0, scale = 1] = pose
  const r = rotation(turn, nod, tilt)
  const focal = Math.max(columns, rows) / 2 / Math.tan((FIELD_OF_VIEW / 2 / 180) * Math.PI)
  const made = corners(mesh.vertices.length / 3, (n) => {
    const [a = 0, b = 0, c = 0] = [mesh.vertices[3 * n], mesh.vertices[3 * n + 1], mesh.vertices[3 * n + 2]]
    const along = (row: number) => ((r[row] ?? 0) * a + (r[row + 1] ?? 0) * b + (r[row + 2] ?? 0) * c) * scale
    const w = -(along(6) + z)
    const depth = ((FAR + NEAR) / (FAR - NEAR)) * w - (2 * FAR * NEAR) / (FAR - NEAR)
    const [across, down] = [((2 * focal) / columns) * (along(0) + x), ((-2 * focal) / rows) * (along(3) + y)]
    return [across, down, depth, w, mesh.places[2 * n] ?? 0, mesh.places[2 * n + 1] ?? 0, w]
  })
  return { corners: made, triangles: mesh.triangles }
}

/** One triangle within the planes, after Sutherland and Hodgman (1974). */
function cut(triangle: number[][]): number[][] {
  let polygon = triangle
  for (const axis of [0, 1, 2])
    for (const side of [1, -1]) {
      const kept: number[][] = []
      polygon.forEach((one, n) => {
        const following = polygon[(n + 1) % polygon.length] as number[]
        const far = (corner: number[]) => (corner[3] as number) - side * (corner[axis] as number)
        const [here, there] = [far(one), far(following)]
        if (here >= 0) kept.push(one)
        if (here >= 0 !== there >= 0) kept.push(one.map((number, k) => number + ((following[k] as number) - number) * (here / (here - there))))
      })
      polygon = kept
      if (polygon.length < 3) return []
    }
  return polygon
}

/** Corners of triangles as a GPU takes them: clip position and attributes, eight numbers each. */
export function trianglesOf(pass: MeshPass, numbers: number[], moment: Moment, mesh: MeshData | undefined, face: FaceModel | undefined, held: HeldFaces): Float32Array<ArrayBuffer> {
  const { columns, rows } = moment.screen
  const { corners: given, triangles } =
    pass.kind === 'face'
      ? ofFaces(pass.id, numbers, held, face, rows / columns)
      : pass.kind === 'grid'
        ? ofGrid(pass.id, numbers)
        : ofMesh(mesh, numbers, columns, rows)
  if (!given.every(Number.isFinite)) return new Float32Array()
  const snapped = (part: number, w: number, size: number) => {
    const sixteenths = Math.floor((part / w + 1) * ((SUBPIXELS * size) / 2) + 0.5)
    return (sixteenths / ((SUBPIXELS * size) / 2) - 1) * w
  }
  const found: number[] = []
  const put = (corner: ArrayLike<number>): void => {
    const w = Math.max(corner[3] ?? 1, 1e-9)
    found.push(snapped(corner[0] ?? 0, w, columns), snapped(corner[1] ?? 0, w, rows), corner[2] ?? 0, w)
    for (let k = 4; k < CORNER; k++) found.push(corner[k] ?? 0)
  }
  const crossing: number[][][] = []
  for (let n = 0; n < triangles.length; n += 3) {
    const three = [0, 1, 2].map((k) => {
      const first = (triangles[n + k] ?? 0) * CORNER
      return given.subarray(first, first + CORNER)
    })
    const within = (corner: Float64Array) => [0, 1, 2].every((axis) => Math.abs(corner[axis] as number) <= (corner[3] as number))
    if (three.every(within)) three.forEach(put)
    else crossing.push(three.map((corner) => [...corner]))
  }
  for (const triangle of crossing) {
    const polygon = cut(triangle)
    for (let k = 1; k + 1 < polygon.length; k++) for (const corner of [polygon[0], polygon[k], polygon[k + 1]]) put(corner as number[])
  }
  return new Float32Array(found)
}
