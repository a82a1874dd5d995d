/** The connection to the server's stream: what is told again after a break, what is acknowledged, and in which order frames are drawn. */
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Connection, type Listener } from '../src/stream/connection'
import type { FrameHeader } from '../src/stream/messages'
import { effect } from './made'

/** A socket of the browser, whose other end is the test. */
class Socket {
  static readonly OPEN = 1
  static readonly all: Socket[] = []
  readyState = 0
  binaryType = ''
  onopen: () => void = () => undefined
  onclose: () => void = () => undefined
  onmessage: (event: { data: ArrayBuffer }) => void = () => undefined
  readonly sent: Record<string, unknown>[] = []

  constructor(readonly address: string) {
    Socket.all.push(this)
  }

  send(text: string): void {
    this.sent.push(JSON.parse(text) as Record<string, unknown>)
  }

  open(): void {
    this.readyState = Socket.OPEN
    this.onopen()
  }

  close(): void {
    this.readyState = 3
    this.onclose()
  }

  give(header: object, picture = ''): void {
    const head = new TextEncoder().encode(JSON.stringify(header))
    const data = new Uint8Array([0, 0, head.length >> 8, head.length & 255, ...head, ...new TextEncoder().encode(picture)])
    this.onmessage({ data: data.buffer })
  }
}

const frame = (number: number) => ({ type: 'frame', frame: number, serial: 0, lossless: false }) as FrameHeader
const pause = () => vi.advanceTimersByTimeAsync(0)

let said: unknown[]
let listener: Listener
let connection: Connection
const socket = (): Socket => Socket.all.at(-1) as Socket
const sent = (type: string): Record<string, unknown>[] => socket().sent.filter((one) => one.type === type)

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', Socket)
  vi.stubGlobal('location', { protocol: 'http:', host: 'localhost:1' })
  vi.stubGlobal('createImageBitmap', async (file: Blob) => {
    const words = await file.text()
    if (words === 'torn') throw new DOMException('it cannot be decoded')
    if (words.startsWith('slow')) await new Promise((done) => setTimeout(done, 50))
    return { words, close: () => said.push(['closed', words]) }
  })
  said = []
  const told = (kind: string) => (what: unknown) => void said.push([kind, what])
  listener = {
    frame: (header, picture) => void said.push(['frame', header.frame, (picture as unknown as { words: string }).words]),
    tiles: told('tiles'), scope: told('scope'), trouble: told('trouble'), note: told('note'), told: told('told'), connected: told('connected'),
  } // prettier-ignore
  connection = new Connection(listener)
})

afterEach(() => vi.useRealTimers())

describe('a break', () => {
  it('ends by itself, and the server is told again what to show and how', async () => {
    const one = effect([], { name: 'First' })
    connection.show(one, 3)
    connection.setView({ screen: '1:1' })
    socket().open()
    expect(socket().sent.map((message) => message.type)).toEqual(['show', 'view'])
    connection.remember(effect([], { name: 'Second' }), 4)
    connection.setView({ playing: false })
    const first = socket()
    first.close()
    await vi.advanceTimersByTimeAsync(250)
    expect(socket()).not.toBe(first)
    socket().open()
    expect(sent('show')).toEqual([expect.objectContaining({ serial: 4, effect: expect.objectContaining({ name: 'Second' }) })])
    expect(sent('view')).toEqual([{ type: 'view', screen: '1:1', playing: false }])
    expect(said.filter((one) => (one as unknown[])[0] === 'connected')).toEqual([['connected', true], ['connected', false], ['connected', true]]) // prettier-ignore
  })
  it('that lasts is tried ever more seldom, 4 s apart at most', async () => {
    const times: number[] = []
    for (let n = 0; n < 8; n++) {
      const before = Socket.all.length
      socket().close()
      const began = Date.now()
      while (Socket.all.length === before) await vi.advanceTimersByTimeAsync(50)
      times.push(Date.now() - began)
    }
    expect(times).toEqual([250, 500, 1000, 2000, 4000, 4000, 4000, 4000])
  })
  it('of a list is told what moves there', async () => {
    connection.print('a')
    socket().open()
    expect(socket().sent).toEqual([{ type: 'print', id: 'a' }])
  })
})

describe('a picture', () => {
  beforeEach(() => socket().open())

  it('is drawn, then acknowledged', async () => {
    socket().give(frame(1), 'first')
    await pause()
    expect(said.at(-1)).toEqual(['frame', 1, 'first'])
    expect(sent('ack')).toEqual([{ type: 'ack', kind: 'frame' }])
  })
  it('whose drawing takes is acknowledged when that has ended', async () => {
    let done: () => void = () => undefined
    listener.frame = () => new Promise((resolve) => (done = resolve))
    socket().give(frame(1), 'first')
    await pause()
    expect(sent('ack')).toEqual([])
    done()
    await pause()
    expect(sent('ack')).toHaveLength(1)
  })
  it('that is decoded late is never drawn over a newer one', async () => {
    socket().give(frame(1), 'slow')
    socket().give(frame(2), 'quick')
    await vi.advanceTimersByTimeAsync(100)
    expect(said.filter((one) => (one as unknown[])[0] === 'frame')).toEqual([['frame', 2, 'quick']])
    expect(said).toContainEqual(['closed', 'slow'])
    expect(sent('ack')).toHaveLength(2)
  })
  it('that cannot be decoded is answered all the same', async () => {
    socket().give(frame(1), 'torn')
    await pause()
    expect(sent('ack')).toHaveLength(1)
  })
  it('of tiles and scopes goes to its own place', async () => {
    socket().give({ type: 'tiles', ids: ['a'], width: 1, height: 1 }, 'small')
    socket().give({ type: 'scope', scope: 'parade', width: 1, height: 1 }, 'graph')
    await pause()
    expect(sent('ack').map((one) => one.kind).sort()).toEqual(['scope', 'tiles'])
  })
})

it('trouble is told, and over when the next edit is built', async () => {
  socket().open()
  socket().give({ type: 'trouble', layer: 'l', message: 'it cannot be drawn' })
  socket().give({ type: 'built' })
  await pause()
  expect(said.filter((one) => (one as unknown[])[0] === 'trouble')).toEqual([['trouble', expect.objectContaining({ layer: 'l' })], ['trouble', null]]) // prettier-ignore
})

it('nothing is sent into a socket that is not open', () => {
  connection.move({ layer: 'l', part: 'control', name: 'a', of: '' }, 1, 1)
  expect(socket().sent).toEqual([])
})
