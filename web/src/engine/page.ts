/** The page of an exported effect: this device's camera through the program that lies beside it. No framework, no server. */
import { lacking, RealCamera, stopCamera } from '../camera/camera'
import { camera as words } from '../words/en.json'
import { Host, touching } from './host'
import type { Keeping } from './keeping'
import { Pace } from './pace'
import { load } from './player'

const canvas = document.querySelector('canvas') as HTMLCanvasElement
const notice = document.querySelector('#words') as HTMLElement
const bare = document.querySelector('#bare') as HTMLButtonElement
const again = document.querySelector('#again') as HTMLButtonElement
const note = document.querySelector('#note')
/** Milliseconds for which a picture is held back until the trackers have seen it, where the address says so. */
const held = Number(new URLSearchParams(window.location.search).get('hold') ?? NaN)
/** Pixels of the screen's short side. */
const SHORT = 720
const NOTICE_MS = 6000

/** Whether the picture may become smaller where it would stutter. */
const keepsBeat = new URLSearchParams(window.location.search).get('beat') !== 'off'

let camera: RealCamera | null = null
let side: 'front' | 'back' = 'front'

function say(text: string): void {
  notice.textContent = text
  notice.hidden = text === ''
}

function stopped(reason: string): void {
  stopCamera()
  camera = null
  say(reason)
  again.hidden = false
}

async function open(masks: string[]): Promise<void> {
  again.hidden = true
  say(words.starting)
  camera = null
  const fresh = new RealCamera(stopped)
  try {
    if (!(await fresh.start(undefined, side))) return
    if (held >= 0) fresh.longest = held
    camera = fresh
    aside(lacking(masks))
  } catch (error) {
    stopped(error instanceof Error ? error.message : String(error))
  }
}

/** The screen's pixels: of the window's shape, upright or not. */
function size(share: number): [number, number] {
  const shape = window.innerWidth / Math.max(1, window.innerHeight)
  const short = Math.round(SHORT * share)
  return shape < 1 ? [short, Math.round(short / shape)] : [Math.round(short * shape), short]
}

/** A word in passing. */
function aside(text: string): void {
  say(text)
  window.setTimeout(() => notice.textContent === text && say(''), NOTICE_MS)
}

/** What is kept, and the row of what the thumb reaches. */
async function keeping(host: Host): Promise<Keeping> {
  const { css, Keeping } = await import('./keepingStyled')
  const row = document.querySelector('main') as HTMLElement
  const keep = new Keeping(canvas, () => document.title, () => host.redraw(), aside)
  document.head.append(Object.assign(document.createElement('style'), { textContent: css }))
  row.append(keep.still, keep.clip)
  row.before(keep.kept)
  const button = (text: string, act: () => void): HTMLButtonElement => {
    const made = Object.assign(document.createElement('button'), { textContent: text })
    made.addEventListener('click', act)
    row.append(made)
    return made
  }
  const turned = button(words.backCamera, () => {
    side = side === 'front' ? 'back' : 'front'
    host.side = side
    turned.textContent = side === 'front' ? words.backCamera : words.frontCamera
    void open(host.masks)
  })
  turned.hidden = true
  // How many there are is told once one may be used.
  const many = (): void => void RealCamera.devices().then((all) => (turned.hidden = all.length < 2))
  canvas.addEventListener('seen', many, { once: true })
  if (document.fullscreenEnabled) button(words.full, () => void (document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen()))
  return keep
}

/** What the wearer may turn, over the lower edge of the picture. */
async function dialled(host: Host): Promise<void> {
  if (!host.dials.length && !host.asksForPhoto) return
  const { css, Dials, dialsOf, photoOf } = await import('./dialsStyled')
  const worn = dialsOf(host.dials, host.asksForPhoto, words.yourPhoto)
  if (!worn.length) return
  const photo = (file: File) => void photoOf(file).then((picture) => host.photo(picture)).catch(() => say(words.noPicture))
  const dials = new Dials(worn, (numbers) => host.turn(numbers), photo)
  const style = Object.assign(document.createElement('style'), { textContent: css })
  document.head.append(style)
  document.querySelector('main')?.before(dials.element)
  window.addEventListener('pointerdown', () => dials.wake())
}

async function start(): Promise<void> {
  const { program, material } = await load('.')
  const host = new Host(canvas)
  host.open(program, material)
  const hold = (down: boolean) => (host.bare = down)
  bare.addEventListener('pointerdown', () => hold(true))
  for (const end of ['pointerup', 'pointerleave', 'pointercancel']) bare.addEventListener(end, () => hold(false))
  bare.addEventListener('keydown', (event) => event.key === ' ' && hold(true))
  bare.addEventListener('keyup', () => hold(false))
  touching(canvas, host)
  const faces = host.readsFaces ? await import('./faces') : null
  let keep: Keeping | null = null
  const pace = new Pace()
  let [width, height] = size(1)
  again.addEventListener('click', () => void open(host.masks))
  function draw(): void {
    // While a clip is recorded its pictures keep their size and shape.
    if (!keep?.films) [width, height] = size(pace.share)
    const seen = camera?.seen(width, height, host.masks, host.readsFaces)
    if (camera && seen) {
      host.faces = faces ? seen.faces.map((points) => faces.faceOf(points, width, height)) : []
      host.draw(host.frame, width, height, seen)
      canvas.dispatchEvent(new Event('seen'))
      if (keepsBeat && !keep?.films && pace.drawn(performance.now())) aside(words.smaller)
      if (camera.trouble) say(camera.trouble)
      if (note) note.textContent = camera.foretells ? words.foretold : ''
    }
    requestAnimationFrame(draw)
  }
  draw()
  const beside = Promise.all([dialled(host), keeping(host).then((made) => (keep = made))])
  await open(host.masks)
  await beside
}

start().catch((error: unknown) => say(error instanceof Error ? error.message : String(error)))
