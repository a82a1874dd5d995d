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

/** How parts of a mesh move: three rows of four a part, the parts of a frame in order, over and over. */
export interface Motion {
  rate: number
  parts: number
  matrices: ArrayLike<number>
}

/** `vertices`: x, y, z each; `places`: u, v each; `triangles`: three vertices each. `colours` are linear; `parts`: which matrix of a motion moves a vertex. */
export interface MeshData {
  vertices: ArrayLike<number>
  places: ArrayLike<number>
  triangles: ArrayLike<number>
  normals?: ArrayLike<number>
  colours?: ArrayLike<number>
  parts?: ArrayLike<number>
  motions?: Motion[]
}

/** What hides a mesh: the head as a solid. */
export type Solid = Pick<MeshData, 'vertices' | 'triangles'>

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

/** Between the outer corners of the eyes, parts of the screen's width. */
function sizeOf({ points }: Held, shape: number): number {
  const across = (axis: number) => (points[3 * 33 + axis] ?? 0) - (points[3 * 263 + axis] ?? 0)
  return Math.hypot(across(0), across(1) * shape)
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

/** What stands for everybody where a face is meant by its number (core/language/pictures.py). */
const EVERYBODY = -1

/** The skin of faces, flat on the screen; `numbers`: the lag of what is at rest, whether the mouth is covered, and the eyes, and the
 * number of the face. */
function ofFaces(who: string, numbers: number[], held: HeldFaces, model: FaceModel | undefined, shape: number): Drawn {
  if (!model) return NOTHING
  // Packages of before have no number: whoever is there is meant, then.
  const meant = numbers[3] ?? (who === 'everybody' ? EVERYBODY : Number(who === 'second' || !held[0]))
  const there = held.filter((one, n): one is Held => one !== null && (meant === EVERYBODY || n === meant)).sort((a, b) => sizeOf(b, shape) - sizeOf(a, shape))
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

/** Numbers of all drawings of a mesh together, and of each; what ends the id of one that draws its light (core/language/pictures.py). */
const SOLID = 7
const EACH = 25
const LIT = ':lit'

/** The id of a mesh on the shelf. */
export const materialOf = (pass: MeshPass): string => (pass.id.endsWith(LIT) ? pass.id.slice(0, -LIT.length) : pass.id)

/** A place, or with `turned` a direction, by three rows of four. */
function along(rows: ArrayLike<number>, from: number, [x, y, z]: [number, number, number], turned = false): [number, number, number] {
  const row = (k: number): number => (rows[from + k] ?? 0) * x + (rows[from + k + 1] ?? 0) * y + (rows[from + k + 2] ?? 0) * z + (turned ? 0 : (rows[from + k + 3] ?? 0))
  return [row(0), row(4), row(8)]
}

/** A motion's matrices between two frames. */
function matricesAt({ rate, parts, matrices }: Motion, seconds: number): Float64Array {
  const size = 12 * parts
  const frames = matrices.length / size
  const place = (((seconds * rate) % frames) + frames) % frames
  const first = Math.min(Math.floor(place), frames - 1)
  const after = (first + 1) % frames
  return Float64Array.from({ length: size }, (_, n) => {
    const start = matrices[first * size + n] ?? 0
    return start + ((matrices[after * size + n] ?? 0) - start) * (place - first)
  })
}

/** Vertices and normals as they are so far into one of the motions; at rest for a number that is none. */
function posed(mesh: MeshData, number: number, seconds: number): Pick<MeshData, 'vertices' | 'normals'> {
  const motion = mesh.motions?.[number]
  if (!motion || !mesh.parts) return mesh
  const matrices = matricesAt(motion, seconds)
  const moved = (given: ArrayLike<number>, turned: boolean): Float64Array => {
    const made = new Float64Array(given.length)
    for (let n = 0; n < given.length / 3; n++) {
      const [x, y, z] = along(matrices, 12 * (mesh.parts?.[n] ?? 0), [given[3 * n] ?? 0, given[3 * n + 1] ?? 0, given[3 * n + 2] ?? 0], turned)
      const long = turned ? Math.max(Math.sqrt(x * x + y * y + z * z), 1e-12) : 1
      made.set([x / long, y / long, z / long], 3 * n)
    }
    return made
  }
  return { vertices: moved(mesh.vertices, false), normals: mesh.normals && moved(mesh.normals, true) }
}

/** The light that a vertex gives back, times its colour: from one side, and from all of the sky. */
function lightOf(mesh: MeshData, normals: ArrayLike<number> | undefined, n: number, placed: number[], light: number[]): [number, number, number] {
  const colour = [0, 1, 2].map((k) => mesh.colours?.[3 * n + k] ?? 1) as [number, number, number]
  const [sky, unlit] = [light[3] ?? 0, light[4] ?? 0]
  if (!normals) return colour
  const [x, y, z] = along(placed, 0, [normals[3 * n] ?? 0, normals[3 * n + 1] ?? 0, normals[3 * n + 2] ?? 0], true)
  const long = Math.max(Math.sqrt(x * x + y * y + z * z), 1e-12)
  const straight = Math.max((x * (light[0] ?? 0) + y * (light[1] ?? 0) + z * (light[2] ?? 0)) / long, 0)
  const given = sky * (0.75 + (0.25 * y) / long) + (1 - sky) * straight
  const much = given + (1 - given) * unlit
  return [colour[0] * much, colour[1] * much, colour[2] * much]
}

/** What corners take of the screen, and how near the nearest is to the lens. */
interface Box {
  left: number
  right: number
  top: number
  bottom: number
  nearest: number
}

function boxAround(corners: Float64Array, numbers: Iterable<number>): Box {
  const box: Box = { left: Infinity, right: -Infinity, top: Infinity, bottom: -Infinity, nearest: Infinity }
  for (const n of numbers) {
    const w = corners[n * CORNER + 3] ?? 1
    const [x, y] = [(corners[n * CORNER] ?? 0) / w, (corners[n * CORNER + 1] ?? 0) / w]
    box.left = Math.min(box.left, x)
    box.right = Math.max(box.right, x)
    box.top = Math.min(box.top, y)
    box.bottom = Math.max(box.bottom, y)
    box.nearest = Math.min(box.nearest, w)
  }
  return box
}
const boxOf = (corners: Float64Array, from: number, to: number): Box => boxAround(corners, Array.from({ length: to - from }, (_, n) => from + n))

/** A mesh before the lens, as often as it is drawn, and the heads that hide it, which cover nothing themselves. */
function ofMesh(mesh: MeshData | undefined, lit: boolean, numbers: number[], columns: number, rows: number, solid: Solid | undefined): Drawn {
  if (!mesh) return NOTHING
  const [motion = -1, seconds = 0] = numbers
  const light = numbers.slice(2, SOLID)
  const { vertices, normals } = posed(mesh, Math.round(motion), seconds)
  const focal = Math.max(columns, rows) / 2 / Math.tan((FIELD_OF_VIEW / 2 / 180) * Math.PI)
  const blocks = Array.from({ length: Math.floor((numbers.length - SOLID) / EACH) }, (_, n) => numbers.slice(SOLID + n * EACH, SOLID + (n + 1) * EACH))
  const shown = blocks.filter((block) => (block[EACH - 1] ?? 0) > 0)
  const hiding = shown.map((block) => (solid && block.slice(12, 24).some(Boolean) ? solid : null))
  const count = vertices.length / 3
  const total = shown.length * count + hiding.reduce((sum, one) => sum + (one?.vertices.length ?? 0) / 3, 0)
  const made = new Float64Array(total * CORNER)
  const triangles: number[] = []
  let start = 0
  const put = (given: ArrayLike<number>, matrix: number[], rest: (n: number, w: number) => number[], list: ArrayLike<number>): void => {
    for (let n = 0; n < given.length / 3; n++) {
      const [x, y, z] = along(matrix, 0, [given[3 * n] ?? 0, given[3 * n + 1] ?? 0, given[3 * n + 2] ?? 0])
      const w = -z
      const depth = ((FAR + NEAR) / (FAR - NEAR)) * w - (2 * FAR * NEAR) / (FAR - NEAR)
      made.set([((2 * focal) / columns) * x, ((-2 * focal) / rows) * y, depth, w, ...rest(n, w)], (start + n) * CORNER)
    }
    for (let t = 0; t < list.length; t++) triangles.push((list[t] ?? 0) + start)
    start += given.length / 3
  }
  const worn: Box[] = []
  shown.forEach((block) => {
    const [placed, there, from] = [block.slice(0, 12), block[EACH - 1] ?? 0, start]
    const rest = (n: number, w: number): number[] => (lit ? [...lightOf(mesh, normals, n, placed, light), there] : [mesh.places[2 * n] ?? 0, mesh.places[2 * n + 1] ?? 0, w, there])
    put(vertices, placed, rest, mesh.triangles)
    worn.push(boxOf(made, from, start))
  })
  // Anybody's head may hide what somebody else wears; its triangles count where something is that it may hide.
  shown.forEach((block, k) => {
    const head = hiding[k]
    if (!head) return
    const [from, first] = [start, triangles.length]
    put(head.vertices, block.slice(12, 24), (_, w) => [0, 0, lit ? 0 : w, 0], head.triangles)
    if (Math.min(boxOf(made, from, start).nearest, ...worn.map((one) => one.nearest)) < NEAR) return
    const kept: number[] = []
    for (let t = first; t < triangles.length; t += 3) {
      const three = triangles.slice(t, t + 3)
      const box = boxAround(made, three)
      if (worn.some((one) => box.left <= one.right && box.right >= one.left && box.top <= one.bottom && box.bottom >= one.top)) kept.push(...three)
    }
    triangles.length = first
    for (const corner of kept) triangles.push(corner)
  })
  return { corners: made, triangles }
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
export function trianglesOf(pass: MeshPass, numbers: number[], moment: Moment, mesh: MeshData | undefined, beside: { face?: FaceModel; head?: Solid }, held: HeldFaces): Float32Array<ArrayBuffer> {
  const { columns, rows } = moment.screen
  const { corners: given, triangles } =
    pass.kind === 'face'
      ? ofFaces(pass.id, numbers, held, beside.face, rows / columns)
      : pass.kind === 'grid'
        ? ofGrid(pass.id, numbers)
        : ofMesh(mesh, pass.id.endsWith(LIT), numbers, columns, rows, beside.head)
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
