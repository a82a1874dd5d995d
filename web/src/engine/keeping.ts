/**
 * What the wearer keeps: a still, or a clip of up to half a minute, made on the device of what its canvas shows, then saved or
 * shared from there. Nothing is sent anywhere. Plain elements, as the dials are.
 */
import { keeping as words } from '../words/en.json'

export const LONGEST_MS = 30_000
const CLIP_RATE = 30
const QUALITY = 0.92
/** In the order in which they are wanted: what most programs play comes first. */
const FORMS: [string, string][] = [['video/mp4;codecs=avc1', 'mp4'], ['video/mp4', 'mp4'], ['video/webm;codecs=vp9', 'webm'], ['video/webm', 'webm']]

/** How clips are recorded on this device; none where it cannot. */
export function clipForm(): [string, string] | null {
  if (typeof MediaRecorder === 'undefined' || !('captureStream' in HTMLCanvasElement.prototype)) return null
  return FORMS.find(([type]) => MediaRecorder.isTypeSupported(type)) ?? null
}

function made<K extends keyof HTMLElementTagNameMap>(tag: K, className: string, text = ''): HTMLElementTagNameMap[K] {
  return Object.assign(document.createElement(tag), { className, textContent: text })
}

export class Keeping {
  /** Buttons for the thumb's row. */
  readonly still = made('button', 'keep', words.picture)
  readonly clip = made('button', 'keep', words.clip)
  /** What was kept last, until it is saved or thrown away. */
  readonly kept = made('div', 'kept')
  private recorder: MediaRecorder | null = null
  private timer = 0
  private address = ''

  /** `redraw` draws the last frame once more; `name`: of files; `say` tells the wearer in words. */
  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly name: () => string,
    private readonly redraw: () => void,
    private readonly say: (words: string) => void,
  ) {
    this.kept.hidden = true
    this.kept.setAttribute('role', 'group')
    this.kept.setAttribute('aria-label', words.kept)
    this.still.addEventListener('click', () => this.picture())
    this.clip.addEventListener('click', () => (this.recorder ? this.end() : this.begin()))
    document.addEventListener('visibilitychange', this.hidden)
  }

  /** A page that nobody sees draws nothing: the clip ends there. */
  private readonly hidden = (): void => {
    if (document.hidden) this.end()
  }

  /** While a clip runs, its canvas keeps its size. */
  get films(): boolean {
    return this.recorder !== null
  }

  /** The canvas as it is, as a JPEG. What WebGL drew is there until the browser has shown it, so it is drawn just before. */
  private picture(): void {
    this.redraw()
    this.canvas.toBlob((blob) => (blob ? this.show(blob, 'jpg') : this.say(words.noStill)), 'image/jpeg', QUALITY)
  }

  private begin(): void {
    const form = clipForm()
    if (!form) return this.say(words.noClips)
    const [type, ending] = form
    const parts: Blob[] = []
    const stream = this.canvas.captureStream(CLIP_RATE)
    let recorder: MediaRecorder
    try {
      recorder = new MediaRecorder(stream, { mimeType: type, videoBitsPerSecond: 8_000_000 })
    } catch {
      return this.say(words.noClips)
    }
    recorder.addEventListener('dataavailable', (event) => event.data.size && parts.push(event.data))
    recorder.addEventListener('stop', () => {
      for (const track of stream.getTracks()) track.stop()
      this.recorder = null
      window.clearInterval(this.timer)
      this.clip.textContent = words.clip
      this.clip.classList.remove('running')
      if (parts.length) this.show(new Blob(parts, { type: type.split(';')[0] ?? type }), ending)
    })
    this.recorder = recorder
    recorder.start(1000)
    const began = performance.now()
    const tick = (): void => {
      const passed = performance.now() - began
      this.clip.textContent = words.stop.replace('{seconds}', String(Math.floor(passed / 1000)))
      if (passed >= LONGEST_MS) this.end()
    }
    this.clip.classList.add('running')
    this.timer = window.setInterval(tick, 250)
    tick()
  }

  private end(): void {
    if (this.recorder?.state === 'recording') this.recorder.stop()
  }

  private show(blob: Blob, ending: string): void {
    this.forget()
    const plain = this.name().toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-|-$/g, '') || 'effect'
    const file = new File([blob], `${plain}.${ending}`, { type: blob.type })
    this.address = URL.createObjectURL(file)
    const seen = ending === 'jpg' ? Object.assign(made('img', ''), { alt: '' }) : Object.assign(made('video', ''), { muted: true, loop: true, autoplay: true, playsInline: true })
    seen.src = this.address
    const save = Object.assign(made('a', 'keep', words.save), { href: this.address, download: file.name })
    const away = made('button', 'keep', words.away)
    away.addEventListener('click', () => this.forget())
    this.kept.replaceChildren(seen, save)
    if ('canShare' in navigator && navigator.canShare({ files: [file] })) {
      const share = made('button', 'keep', words.share)
      // Whoever closes the sheet without sharing has done nothing wrong.
      share.addEventListener('click', () => void navigator.share({ files: [file], title: this.name() }).catch(() => undefined))
      this.kept.append(share)
    }
    this.kept.append(away)
    this.kept.hidden = false
  }

  private forget(): void {
    if (this.address) URL.revokeObjectURL(this.address)
    this.address = ''
    this.kept.hidden = true
    this.kept.replaceChildren()
  }

  close(): void {
    this.end()
    this.forget()
    window.clearInterval(this.timer)
    document.removeEventListener('visibilitychange', this.hidden)
  }
}
