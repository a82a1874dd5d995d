/** What the server, the thread of the stream and the page say to each other. */
import type { Address, Effect, Plain } from '../api/types'
import type { Sitting } from '../camera/standin'

export interface FrameHeader {
  /** Whether it is of the full size; an effect that takes long is shown smaller while it moves. */
  full: boolean
  type: 'frame'
  frame: number
  serial: number
  /** The last change of the view that it shows. */
  look: number
  lossless: boolean
  playing: boolean
  width: number
  height: number
  render_ms: number
  encode_ms: number
  /** The probed place's colour, 0 to 255: of the camera, and of the effect. */
  probe?: { before: number[]; after: number[] }
  /** Where the controls of the watched layer stand that something drives. */
  driven?: Record<string, number>
}

export interface ScopeHeader {
  type: 'scope'
  scope: string
  width: number
  height: number
}

export interface TilesHeader {
  type: 'tiles'
  ids: string[]
  width: number
  height: number
}

export interface Trouble {
  type: 'trouble'
  layer: string | null
  message: string
  serial?: number
}

export type Header = FrameHeader | TilesHeader | ScopeHeader | Trouble | { type: 'note'; message: string } | { type: 'built' } | { type: 'restarted' }

export interface View {
  playing?: boolean
  frame?: number
  bare?: boolean
  wipe?: number
  speed?: number
  muted?: string[]
  screen?: string
  short?: number
  scope?: string
  region?: [number, number, number, number]
  clipping?: boolean
  /** A place whose colour comes with each frame; outside 0 to 1 for none. */
  probe?: [number, number]
  /** The layer of which frames say where what is driven stands; '' for none. */
  watched?: string
  /** Who is before the stand-in camera. */
  sitting?: Sitting
  /** The number of this change; comes back with the first frame that shows it. */
  look?: number
}

/** From the page to the thread of the stream, as JSON; canvases and pictures come as `Handed`. */
export type Order =
  | { type: 'show'; effect: Effect; serial: number }
  | { type: 'remember'; effect: Effect; serial: number }
  | { type: 'gallery'; ids: string[] }
  | { type: 'move'; at: Address; value: Plain; serial: number }
  | { type: 'view'; view: View }
  /** `replaced`: the page puts pictures of its own in the place of the server's. `copied`: it wants to see those. */
  | { type: 'ways'; replaced: boolean; copied: boolean }
  /** A frame that came with a copy is dealt with. */
  | { type: 'taken' }
  /** Whether nobody can see the page: nothing of it is displayed then. */
  | { type: 'hidden'; hidden: boolean }
/** What the page hands over: a canvas to draw into from now on, or a picture of its own to draw. */
export type Handed = OffscreenCanvas | ImageBitmap

/** From the thread of the stream to the page. `at`: when a frame was drawn, in milliseconds since 1970. */
export type Word =
  | { type: 'frame'; header: FrameHeader; at: number; picture: ImageBitmap | null }
  | { type: 'tiles'; header: TilesHeader; picture: ImageBitmap }
  | { type: 'scope'; header: ScopeHeader; picture: ImageBitmap }
  | { type: 'painted'; at: number }
  | { type: 'trouble'; trouble: Trouble | null }
  /** What is to be known of the picture though it goes on. */
  | { type: 'note'; message: string }
  | { type: 'connected'; up: boolean }
