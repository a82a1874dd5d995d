/**
 * One WebSocket to the server's stream: JSON out, pictures in. Comes back by itself after a break and is then told again
 * what to show. Frames are acknowledged when they are drawn, so that the server never runs ahead of this machine.
 */
import type { Address, Effect, Plain } from '../api/types'
import type { Done, FrameHeader, Header, Note, RehearsalHeader, ScopeHeader, ScoreHeader, TilesHeader, Trouble, View } from './messages'

/** Pictures are the listener's to close. */
export interface Listener {
  /** `file` holds the picture once more, for whoever wants a copy. The next but one comes when this one's promise is kept. */
  frame(header: FrameHeader, picture: ImageBitmap, file: Blob): Promise<void> | void
  tiles(header: TilesHeader, picture: ImageBitmap): void
  scope(header: ScopeHeader, picture: ImageBitmap): void
  trouble(trouble: Trouble | null): void
  note(note: Note): void
  told(header: ScoreHeader | RehearsalHeader): void
  connected(up: boolean): void
}

type Target = { effect: Effect; serial: number } | { print: string | null }

const LONGEST_WAIT = 4000

export class Connection {
  private socket: WebSocket | null = null
  private target: Target | null = null
  private view: View = {}
  private wait = 250
  private shown = 0
  private order = 0

  constructor(private readonly listener: Listener) {
    this.connect()
  }

  show(effect: Effect, serial: number): void {
    this.target = { effect, serial }
    this.tell()
  }

  print(id: string | null): void {
    this.target = { print: id }
    this.tell()
  }

  move(at: Address, value: Plain, serial: number): void {
    this.send({ type: 'move', at, value, serial })
  }

  /** Keep the effect that a new connection will be told up to date, without telling it now. */
  remember(effect: Effect, serial: number): void {
    this.target = { effect, serial }
  }

  done(what: Done): void {
    this.send({ type: 'done', ...what })
  }

  setView(view: View): void {
    this.view = { ...this.view, ...view }
    this.send({ type: 'view', ...view })
  }

  private connect(): void {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    const socket = new WebSocket(`${scheme}://${location.host}/api/stream`)
    socket.binaryType = 'arraybuffer'
    socket.onopen = () => {
      this.wait = 250
      this.listener.connected(true)
      this.tell()
      if (Object.keys(this.view).length) this.send({ type: 'view', ...this.view })
    }
    socket.onmessage = (event: MessageEvent<ArrayBuffer>) => void this.take(event.data)
    socket.onclose = () => {
      this.listener.connected(false)
      setTimeout(() => this.connect(), this.wait)
      this.wait = Math.min(LONGEST_WAIT, this.wait * 2)
    }
    this.socket = socket
  }

  private tell(): void {
    if (!this.target) return
    if ('effect' in this.target) this.send({ type: 'show', ...this.target })
    else this.send({ type: 'print', id: this.target.print })
  }

  private send(message: object): void {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message))
  }

  private async take(data: ArrayBuffer): Promise<void> {
    const length = new DataView(data).getUint32(0)
    const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as Header
    if (header.type === 'trouble') this.listener.trouble(header)
    if (header.type === 'note') this.listener.note(header)
    if (header.type === 'score' || header.type === 'rehearsal') this.listener.told(header)
    if (header.type === 'built') this.listener.trouble(null)
    if (header.type !== 'frame' && header.type !== 'tiles' && header.type !== 'scope') return
    const type = header.type === 'scope' || (header.type === 'frame' && header.lossless) ? 'image/png' : 'image/jpeg'
    const order = header.type === 'frame' ? ++this.order : 0
    const blob = new Blob([new Uint8Array(data, 4 + length)], { type })
    const picture = await createImageBitmap(blob, { colorSpaceConversion: 'none' }).catch(() => null)
    // One that cannot be decoded is answered all the same, or the server would wait for it for ever.
    if (!picture) return this.send({ type: 'ack', kind: header.type })
    try {
      await this.give(header, picture, blob, order)
    } finally {
      this.send({ type: 'ack', kind: header.type })
    }
  }

  /** Decoding may end out of order; an older frame is never drawn over a newer one. */
  private give(header: FrameHeader | TilesHeader | ScopeHeader, picture: ImageBitmap, file: Blob, order: number): Promise<void> | void {
    if (header.type === 'tiles') return this.listener.tiles(header, picture)
    if (header.type === 'scope') return this.listener.scope(header, picture)
    if (order <= this.shown) return picture.close()
    this.shown = order
    return this.listener.frame(header, picture, file)
  }
}
