/** What the server, the thread of the stream and the page say to each other. */
import type { Address, Effect, Plain } from '../api/types'
import type { RehearsalData } from '../engine/rehearsal'
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
  /** Numbers of the score: of each line, then of each cue whether it holds and how often it has fired. */
  score?: number[]
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

/** What is to be known of the picture though it goes on; `faceless`: layers that look for faces where none is known. */
export interface Note {
  type: 'note'
  message: string
  faceless: string[]
}

/** What an effect listens to (core/effect/score.py). */
export interface ScoreHeader {
  type: 'score'
  lines: ScoreLine[]
  cues: { id: string; name: string; kept: boolean }[]
}
export interface ScoreLine {
  title: string
  low: number
  high: number
  unit: string
  /** The cue whose threshold lies on it; on both sides of 0 where `sided`. */
  cue: string | null
  sided: boolean
}

export interface RehearsalHeader {
  type: 'rehearsal'
  rehearsal: RehearsalData
}

export type Header = ScoreHeader | RehearsalHeader | FrameHeader | TilesHeader | ScopeHeader | Trouble | Note | { type: 'built' } | { type: 'restarted' }

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
  /** Each frame says what the effect listens to. */
  scored?: boolean
  /** The effect's own rehearsal is played in a loop. */
  rehearsing?: boolean
  /** Who is before the stand-in camera. */
  sitting?: Sitting
  /** The number of this change; comes back with the first frame that shows it. */
  look?: number
}

/** What a hand does at the workbench, as if it wore the effect. `anew`: all is forgotten and time begins again; `asks`: what was done is wanted back. */
export interface Done {
  touch?: { down: boolean; u: number; v: number; turn?: number; scale?: number }
  cue?: string
  dials?: Record<string, number>
  anew?: boolean
  asks?: boolean
}

/** From the page to the thread of the stream, as JSON; canvases and pictures come as `Handed`. */
export type Order =
  | { type: 'show'; effect: Effect; serial: number }
  | { type: 'remember'; effect: Effect; serial: number }
  | { type: 'print'; id: string | null }
  | { type: 'move'; at: Address; value: Plain; serial: number }
  | { type: 'view'; view: View }
  | { type: 'done'; done: Done }
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
  | Note
  | { type: 'connected'; up: boolean }
  | ScoreHeader
  | RehearsalHeader
