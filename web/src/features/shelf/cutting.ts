/** What the clip view sets, apart from how it shows: the crop in the clip as it is turned, sizes, and what each form changes. */
import type { CutRequest } from '../../api/types'

export type Box = [left: number, top: number, right: number, bottom: number]
export type Turn = 0 | 90 | 180 | 270
export const WHOLE: Box = [0, 0, 1, 1]
/** The screen for which effects are made first. */
export const SCREEN: [number, number] = [720, 1280]
/** Pixels that a centimetre of a face takes on it where the face is near: 15 of them two thirds of the width. */
const CENTIMETRE = 32
export const FEWER = 2 / 3
const MOST_SOFT_FRAMES = 48

export interface Settings {
  turn: Turn
  flipped: boolean
  size: [number, number]
  fit: 'cover' | 'contain' | 'stretch'
  crop: Box
  span: [number, number]
  rate: number
  black: boolean
  soften: number
  quality: number | null
}

/** Pixels of a side as they may be. */
export const held = (side: number): number => Math.min(4096, Math.max(16, Math.round(side)))

/** The size at which a sequence is used: on a screen of this shape ("9:16"), or so many centimetres wide on a face, as its own shape has it. */
export function usedAt(screen: string, centimetres: number | null, [width, height]: [number, number]): [number, number] {
  if (centimetres !== null) {
    const wide = centimetres * CENTIMETRE
    return [held(wide), held((wide * height) / width)]
  }
  const [across = 9, down = 16] = screen.split(':').map(Number)
  const short = SCREEN[0] / Math.min(across, down)
  return [Math.round(across * short), Math.round(down * short)]
}

/** The largest box of a shape (width by height) in the middle of a picture of another. */
export function middle(shape: [number, number], picture: [number, number]): Box {
  const wide = (shape[0] / shape[1]) * (picture[1] / picture[0])
  const [width, height] = wide > 1 ? [1, 1 / wide] : [wide, 1]
  return [(1 - width) / 2, (1 - height) / 2, (1 + width) / 2, (1 + height) / 2]
}

/** A box dragged by a corner (0 to 3: upper left, upper right, lower right, lower left) to a place, its opposite held; `shape`: its
 * width by its height in parts of the picture, where it is held to one. */
export function pulled(box: Box, corner: number, x: number, y: number, shape: number | null): Box {
  const [left, top, right, bottom] = box
  const fixed: [number, number] = [corner === 0 || corner === 3 ? right : left, corner < 2 ? bottom : top]
  const [sx, sy] = [corner === 0 || corner === 3 ? -1 : 1, corner < 2 ? -1 : 1]
  const room: [number, number] = [sx < 0 ? fixed[0] : 1 - fixed[0], sy < 0 ? fixed[1] : 1 - fixed[1]]
  let width = Math.min(Math.max(0.04, (x - fixed[0]) * sx), room[0])
  let height = Math.min(Math.max(0.04, (y - fixed[1]) * sy), room[1])
  if (shape !== null) {
    width = Math.min(Math.max(width, height * shape), room[0], room[1] * shape)
    height = width / shape
  }
  const [x1, y1] = [fixed[0] + sx * width, fixed[1] + sy * height]
  return [Math.min(fixed[0], x1), Math.min(fixed[1], y1), Math.max(fixed[0], x1), Math.max(fixed[1], y1)]
}

/** A box moved, and held inside the picture. */
export function shifted([left, top, right, bottom]: Box, dx: number, dy: number): Box {
  const [x, y] = [Math.min(Math.max(dx, -left), 1 - right), Math.min(Math.max(dy, -top), 1 - bottom)]
  return [left + x, top + y, right + x, bottom + y]
}

/** How many pictures the sequence will have. */
export const framesOf = ({ span, rate, soften }: Settings): number => {
  const count = Math.max(1, Math.floor((span[1] - span[0]) * rate + 1e-6))
  return count - Math.min(Math.round(soften * rate), Math.floor(count / 2), MOST_SOFT_FRAMES)
}

export function asked(now: Settings, name: string, draft: boolean): CutRequest {
  const { turn, flipped, crop, size, fit, span, rate, black, soften, quality } = now
  return { turn, flip: flipped ? 'across' : 'none', crop, size, fit, span, rate, black, soften, quality, name, draft }
}
