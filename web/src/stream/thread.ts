/**
 * The thread of the stream: frames are decoded and drawn here, so that nothing the page is busy with holds the picture up.
 * Tiles and scopes go to the page, which has a place for each.
 */
import { Connection } from './connection'
import type { FrameHeader, Handed, Order, Word } from './messages'

let canvas: OffscreenCanvas | null = null
let replaced = false
let copied = false
let hidden = false
let newest = 0
/** What waits for the display. */
const unseen = new Set<() => void>()
/** Copies that the page has not dealt with yet, the oldest first. */
const untaken: (() => void)[] = []

function say(word: Word, ...handed: ImageBitmap[]): void {
  self.postMessage(word, { transfer: handed })
}

/**
 * Draw a picture, which is used up. Gives the time, once it is where the page can see it: one display frame later, however long
 * a busy machine takes for that; at once in a hidden page, which displays nothing.
 */
async function draw(picture: ImageBitmap): Promise<number> {
  canvas?.getContext('bitmaprenderer')?.transferFromImageBitmap(picture)
  const at = performance.timeOrigin + performance.now()
  if (hidden) return at
  await new Promise<void>((resolve) => {
    const displayed = (): void => {
      unseen.delete(displayed)
      resolve()
    }
    unseen.add(displayed)
    requestAnimationFrame(() => requestAnimationFrame(displayed))
  })
  return at
}

/**
 * Draw a frame; at once, but with a copy for the page it ends when the page has taken that. A page that draws more slowly than
 * frames come would pile up copies without bound.
 */
async function drawFrame(header: FrameHeader, picture: ImageBitmap, file: Blob): Promise<void> {
  const mine = ++newest
  if (!canvas || replaced) return picture.close()
  const copy = copied ? await createImageBitmap(file, { colorSpaceConversion: 'none' }) : null
  // Copies may end out of order, too.
  if (mine < newest) {
    copy?.close()
    return picture.close()
  }
  const at = await draw(picture)
  if (!copy) return say({ type: 'frame', header, at, picture: null })
  const taken = new Promise<void>((resolve) => untaken.push(resolve))
  say({ type: 'frame', header, at, picture: copy }, copy)
  await taken
}

const connection = new Connection({
  frame: (header, picture, file) => (copied ? drawFrame(header, picture, file) : void drawFrame(header, picture, file)),
  tiles: (header, picture) => say({ type: 'tiles', header, picture }, picture),
  scope: (header, picture) => say({ type: 'scope', header, picture }, picture),
  trouble: (trouble) => say({ type: 'trouble', trouble }),
  note: (note) => say(note),
  told: (header) => say(header),
  connected: (up) => say({ type: 'connected', up }),
})

self.onmessage = ({ data }: MessageEvent<Handed | string>) => {
  if (data instanceof OffscreenCanvas) canvas = data
  else if (data instanceof ImageBitmap) void draw(data).then((at) => say({ type: 'painted', at }))
  else follow(JSON.parse(data) as Order)
}

function follow(order: Order): void {
  if (order.type === 'show') connection.show(order.effect, order.serial)
  else if (order.type === 'remember') connection.remember(order.effect, order.serial)
  else if (order.type === 'print') connection.print(order.id)
  else if (order.type === 'move') connection.move(order.at, order.value, order.serial)
  else if (order.type === 'view') connection.setView(order.view)
  else if (order.type === 'done') connection.done(order.done)
  else if (order.type === 'taken') untaken.shift()?.()
  else if (order.type === 'ways') ({ replaced, copied } = order)
  else {
    hidden = order.hidden
    if (hidden) for (const displayed of unseen) displayed()
  }
}
