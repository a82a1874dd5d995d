/** The page of an exported effect: this device's camera through the program that lies beside it. No framework, no server. */
import { lacking, RealCamera } from '../trackers/camera'
import { load, Player } from './player'

const canvas = document.querySelector('canvas') as HTMLCanvasElement
const words = document.querySelector('#words') as HTMLElement
const bare = document.querySelector('#bare') as HTMLButtonElement
const again = document.querySelector('#again') as HTMLButtonElement
/** Pixels of the screen's short side. */
const SHORT = 720
const NOTICE_MS = 6000

let camera: RealCamera | null = null

function say(text: string): void {
  words.textContent = text
  words.hidden = text === ''
}

function stopped(reason: string): void {
  camera?.stop()
  camera = null
  say(reason)
  again.hidden = false
}

async function open(masks: string[]): Promise<void> {
  again.hidden = true
  say('Starting the camera …')
  const fresh = new RealCamera(stopped)
  try {
    await fresh.start()
    camera = fresh
    say(lacking(masks))
    if (lacking(masks)) window.setTimeout(() => say(''), NOTICE_MS)
  } catch (error) {
    fresh.stop()
    stopped(error instanceof Error ? error.message : String(error))
  }
}

/** The screen's pixels: of the window's shape, upright or not. */
function size(): [number, number] {
  const shape = window.innerWidth / Math.max(1, window.innerHeight)
  return shape < 1 ? [SHORT, Math.round(SHORT / shape)] : [Math.round(SHORT * shape), SHORT]
}

async function start(): Promise<void> {
  const { program, material } = await load('.')
  const player = new Player(canvas, program, material)
  const opacities = Object.entries(program.uniforms).filter(([name]) => /\.(layer:)?opacity$/.test(name))
  const began = performance.now()
  function hold(down: boolean): void {
    for (const [name, value] of opacities) player.uniforms[name] = down ? 0 : value
  }
  bare.addEventListener('pointerdown', () => hold(true))
  for (const end of ['pointerup', 'pointerleave', 'pointercancel']) bare.addEventListener(end, () => hold(false))
  bare.addEventListener('keydown', (event) => event.key === ' ' && hold(true))
  bare.addEventListener('keyup', () => hold(false))
  again.addEventListener('click', () => void open(player.masks))
  function draw(): void {
    const [width, height] = size()
    if (camera?.draw(width, height)) {
      const frame = Math.floor(((performance.now() - began) / 1000) * program.rate)
      if (player.masks.length) camera.look(player.masks)
      player.draw(camera.canvas, width, height, frame, camera.masks)
      canvas.dataset.frame = String(frame)
      if (camera.trouble) say(camera.trouble)
    }
    requestAnimationFrame(draw)
  }
  draw()
  await open(player.masks)
}

start().catch((error: unknown) => say(error instanceof Error ? error.message : String(error)))
