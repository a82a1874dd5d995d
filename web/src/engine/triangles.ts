/**
 * From a mesh to triangles on the screen: the host's part of drawing meshes, as core/passes/triangles.py has it. Vertices are
 * projected and clipped in double precision, snapped to sixteenths of a pixel, and handed over as one list without indices.
 */
import { POINTS, type Moment } from './moment'

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

/** A face's skin, flat on the screen. `model`: the tracker's own mesh. */
function ofFace(number: number, moment: Moment, model: MeshData | undefined): Drawn {
  const face = moment.faces[number]
  if (!face || !model) return NOTHING
  const at = (place: number) => face.points[place] ?? 0
  const place = (n: number) => model.places[n] ?? 0
  const count = Math.min(POINTS, model.vertices.length / 3)
  const made = corners(count, (n) => [2 * at(3 * n) - 1, 2 * at(3 * n + 1) - 1, at(3 * n + 2), 1, place(2 * n), place(2 * n + 1), at(3 * n + 2)])
  return { corners: made, triangles: model.triangles }
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
export function trianglesOf(pass: MeshPass, numbers: number[], moment: Moment, mesh: MeshData | undefined): Float32Array<ArrayBuffer> {
  const { columns, rows } = moment.screen
  const { corners: given, triangles } =
    pass.kind === 'face'
      ? ofFace(Number(pass.id), moment, mesh)
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
