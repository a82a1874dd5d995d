/** The page of an exported effect: this device's camera through the program that lies beside it. No framework, no server. */
import { load, Player } from './player'

const canvas = document.querySelector('canvas') as HTMLCanvasElement
const video = document.querySelector('video') as HTMLVideoElement
const words = document.querySelector('#words') as HTMLElement
const bare = document.querySelector('#bare') as HTMLButtonElement
const again = document.querySelector('#again') as HTMLButtonElement

const REASONS: Record<string, string> = {
  NotAllowedError: 'This page was not allowed to use the camera. Allow it in the browser, then try again.',
  NotFoundError: 'This device has no camera.',
  NotReadableError: 'Another program is using the camera. Close it, then try again.',
}

function say(text: string): void {
  words.textContent = text
  words.hidden = text === ''
}

async function camera(): Promise<void> {
  again.hidden = true
  say('Starting the camera …')
  try {
    const media = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'user', width: 1280, height: 720 } })
    media.getVideoTracks()[0]?.addEventListener('ended', () => stopped('The camera went away.'))
    video.srcObject = media
    await video.play()
    say('')
  } catch (error) {
    stopped(REASONS[error instanceof DOMException ? error.name : ''] ?? 'The camera could not be started.')
  }
}

function stopped(reason: string): void {
  say(reason)
  again.hidden = false
}

async function start(): Promise<void> {
  const { program, material } = await load('.')
  const player = new Player(canvas, program, material)
  const opacities = Object.entries(program.uniforms).filter(([name]) => name.endsWith('.opacity'))
  const began = performance.now()
  function hold(down: boolean): void {
    for (const [name, value] of opacities) player.uniforms[name] = down ? 0 : value
  }
  bare.addEventListener('pointerdown', () => hold(true))
  for (const end of ['pointerup', 'pointerleave', 'pointercancel']) bare.addEventListener(end, () => hold(false))
  bare.addEventListener('keydown', (event) => event.key === ' ' && hold(true))
  bare.addEventListener('keyup', () => hold(false))
  again.addEventListener('click', () => void camera())
  function draw(): void {
    if (video.readyState >= 2 && video.videoWidth) {
      const frame = Math.floor(((performance.now() - began) / 1000) * program.rate)
      player.draw(video, video.videoWidth, video.videoHeight, frame)
      canvas.dataset.frame = String(frame)
    }
    requestAnimationFrame(draw)
  }
  draw()
  if (!('mediaDevices' in navigator)) stopped('The camera needs a page that is served over HTTPS, or from this machine.')
  else await camera()
}

start().catch((error: unknown) => say(error instanceof Error ? error.message : String(error)))
