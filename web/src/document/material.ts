/** What a control of a picture may be set to: a still by its hash, a sequence and how it is played, the wearer's own photo. */
import type { Asset, Effect, Plain, ShelfPiece } from '../api/types'

export const ORDERS = ['loop', 'backward', 'back and forth', 'once', 'shuffled'] as const

/** A sequence in a picture's place: pictures a second, and by how many seconds it is ahead. */
export interface Played {
  asset: string
  rate: number
  order: (typeof ORDERS)[number]
  shift: number
  /** The cue that starts it; none where the effect's beginning does. */
  cue: string | null
}

/** The wearer's photo, chosen on the phone; `asset` stands in for it until then. */
export interface Wearers {
  wearer: true
  asset: string | null
}

const held = (plain: Plain | undefined): Record<string, unknown> | null => (plain && typeof plain === 'object' && !Array.isArray(plain) ? plain : null)

export function playedOf(plain: Plain | undefined): Played | null {
  const one = held(plain)
  if (!one || !('rate' in one)) return null
  return { asset: String(one.asset), rate: Number(one.rate), order: (one.order ?? 'loop') as Played['order'], shift: Number(one.shift ?? 0), cue: typeof one.cue === 'string' ? one.cue : null }
}

export const isWearers = (plain: Plain | undefined): boolean => held(plain)?.wearer === true

/** The hash of what is set, whatever it is. */
export function assetOf(plain: Plain | undefined): string | null {
  if (typeof plain === 'string') return plain
  const asset = held(plain)?.asset
  return typeof asset === 'string' ? asset : null
}

/** What a control is set to where this is chosen for it. */
export function chosen(asset: Asset): Plain {
  if (asset.mesh) return { asset: asset.hash, motion: asset.mesh.motions?.[0]?.name ?? null, speed: 1 }
  return asset.sequence ? { asset: asset.hash, rate: Math.min(60, asset.sequence.rate), order: 'loop', shift: 0 } : asset.hash
}

/** Columns and rows of a picture or a sequence; of a mesh, the shape of the box that it is sized by. */
export const sizeOf = (asset: Asset): [number, number] | null => {
  if (asset.mesh) return [1, 1]
  const one = asset.picture ?? asset.sequence
  return one ? [one.width, one.height] : null
}

/** What of chosen material other controls take, as the cells of a sheet or the size of a mesh. */
export function factsOf(asset: Asset | undefined, wanted: Record<string, string> | undefined): Record<string, Plain> {
  const found: Record<string, unknown> = { ...asset?.picture, ...asset?.mesh }
  const some = Object.entries(wanted ?? {}).filter(([, fact]) => found[fact] !== undefined)
  return Object.fromEntries(some.map(([name, fact]) => [name, found[fact] as Plain]))
}

/** Whether a control of a picture takes it. */
export const isPicture = (piece: ShelfPiece): boolean => piece.kind === 'picture' || piece.kind === 'sequence'

/** A file's name with its numbers cut off: equal for pictures of one sequence. */
export const stemOf = (name: string): string | null => {
  const found = /^(.*?)(\d+)(\D*)\.(png|jpe?g|webp|tiff?|bmp|avif)$/i.exec(name)
  return found ? `${found[1]}#${found[3]}` : null
}

/** Lets layers use other files, in place: wherever one hash is set, another is. */
export function withFiles(effect: Effect, by: Map<string, string>): void {
  const renewed = (plain: Plain): Plain => {
    if (typeof plain === 'string') return by.get(plain) ?? plain
    const one = held(plain)
    const other = typeof one?.asset === 'string' ? by.get(one.asset) : undefined
    return other ? ({ ...one, asset: other } as Plain) : plain
  }
  for (const layer of effect.layers) {
    for (const values of [layer.values, layer.mask?.values ?? {}, ...(layer.recipe?.nodes ?? []).map((node) => node.set)])
      for (const [name, value] of Object.entries(values)) values[name] = renewed(value)
  }
}
