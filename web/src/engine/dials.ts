/**
 * The wearer's dials, as every page with a player shows them: thumb-sized, three at once, fading when they are left alone. Plain
 * elements, so that the exported page, the phone and the workbench show the same.
 */

export interface Dial {
  id: string
  title: string
  kind: 'number' | 'choice' | 'switch' | 'colour' | 'photo'
  /** Of a number 0 to 1, of a choice its place from 0, of a switch 0 or 1, of a colour #rrggbb. */
  start: number | string
  low: number
  high: number
  unit: string
  choices: string[]
}

/** Dials that are shown at once. */
export const MOST_WORN = 3
const FADE_MS = 4000

/** The moment's dials, 0 to 1 by name, while one stands somewhere (as `start` has it). */
export function numbersOf(dial: Dial, stands: number | string): Record<string, number> {
  if (dial.kind === 'photo') return {}
  if (dial.kind === 'colour') {
    const parts = String(stands).slice(1).match(/../g) ?? []
    return Object.fromEntries([...'rgb'].map((part, n) => [`${dial.id}-${part}`, parseInt(parts[n] ?? '0', 16) / 255]))
  }
  return { [dial.id]: dial.kind === 'choice' ? Number(stands) / Math.max(1, dial.choices.length - 1) : Number(stands) }
}

/** Where a dial stands at zero and at full. */
export function endsOf(dial: Dial): [number | string, number | string] {
  if (dial.kind === 'colour') return ['#000000', '#ffffff']
  return [0, dial.kind === 'choice' ? dial.choices.length - 1 : 1]
}

function made<K extends keyof HTMLElementTagNameMap>(tag: K, className: string, text = ''): HTMLElementTagNameMap[K] {
  return Object.assign(document.createElement(tag), { className, textContent: text })
}

export class Dials {
  readonly element = made('div', 'dials')
  /** Where each stands, by id. */
  readonly stands = new Map<string, number | string>()
  private timer = 0

  /** `turned` is told the moment's dials; `photo` that a photo was chosen. */
  constructor(
    private dials: Dial[],
    private readonly turned: (numbers: Record<string, number>) => void,
    private readonly photo: (file: File) => void = () => undefined,
  ) {
    this.element.setAttribute('role', 'group')
    this.show(dials)
  }

  /** Show these from now on; those that were turned stay where they are, if they are still there. */
  show(dials: Dial[]): void {
    this.dials = dials
    for (const id of this.stands.keys()) if (!dials.some((dial) => dial.id === id)) this.stands.delete(id)
    this.element.replaceChildren(...dials.slice(0, MOST_WORN).map((dial) => this.control(dial)))
    this.wake()
  }

  /** Put one somewhere, as if it had been turned; null is where it starts. */
  put(id: string, stands: number | string | null): void {
    const dial = this.dials.find((one) => one.id === id)
    if (!dial) return
    if (stands === null) this.stands.delete(id)
    else this.stands.set(id, stands)
    this.turned(numbersOf(dial, stands ?? dial.start))
    this.element.children[this.dials.indexOf(dial)]?.replaceWith(this.control(dial))
  }

  /** What the wearer's hand does brings them back; left alone they fade. */
  wake(): void {
    this.element.classList.remove('faded')
    window.clearTimeout(this.timer)
    this.timer = window.setTimeout(() => this.element.classList.add('faded'), FADE_MS)
  }

  private at(dial: Dial): number | string {
    return this.stands.get(dial.id) ?? dial.start
  }

  private turn(dial: Dial, stands: number | string): void {
    this.stands.set(dial.id, stands)
    this.turned(numbersOf(dial, stands))
    this.wake()
  }

  private control(dial: Dial): HTMLElement {
    const box = made('div', `dial ${dial.kind}`)
    box.dataset.dial = dial.id
    const build = { number: this.slider, choice: this.choice, switch: this.toggle, colour: this.colour, photo: this.chooser }[dial.kind]
    build.call(this, dial, box)
    return box
  }

  private slider(dial: Dial, box: HTMLElement): void {
    const field = Object.assign(made('input', ''), { type: 'range', min: '0', max: '1', step: '0.005', value: String(this.at(dial)) })
    const words = made('output', '')
    const say = () => {
      const number = dial.low + (dial.high - dial.low) * Number(field.value)
      words.textContent = `${Number(number.toPrecision(3))} ${dial.unit}`.trim()
      field.style.setProperty('--at', `${Number(field.value) * 100}%`)
    }
    field.setAttribute('aria-label', dial.title)
    field.addEventListener('input', () => (this.turn(dial, Number(field.value)), say()))
    say()
    box.append(made('span', 'title', dial.title), field, words)
  }

  private choice(dial: Dial, box: HTMLElement): void {
    box.setAttribute('role', 'radiogroup')
    box.setAttribute('aria-label', dial.title)
    const buttons = dial.choices.map((words, n) => {
      const button = Object.assign(made('button', '', words), { type: 'button' })
      button.setAttribute('role', 'radio')
      button.addEventListener('click', () => (this.turn(dial, n), say()))
      return button
    })
    const say = () => buttons.forEach((button, n) => button.setAttribute('aria-checked', String(n === Number(this.at(dial)))))
    say()
    box.append(made('span', 'title', dial.title), ...buttons)
  }

  private toggle(dial: Dial, box: HTMLElement): void {
    const button = Object.assign(made('button', '', dial.title), { type: 'button' })
    button.setAttribute('role', 'switch')
    const say = () => button.setAttribute('aria-checked', String(Number(this.at(dial)) > 0.5))
    button.addEventListener('click', () => (this.turn(dial, Number(this.at(dial)) > 0.5 ? 0 : 1), say()))
    say()
    box.append(button)
  }

  private colour(dial: Dial, box: HTMLElement): void {
    const field = Object.assign(made('input', ''), { type: 'color', value: String(this.at(dial)).slice(0, 7) })
    field.setAttribute('aria-label', dial.title)
    field.addEventListener('input', () => this.turn(dial, field.value))
    box.append(made('span', 'title', dial.title), field)
  }

  private chooser(dial: Dial, box: HTMLElement): void {
    const field = Object.assign(made('input', ''), { type: 'file', accept: 'image/*', hidden: true })
    const button = Object.assign(made('button', '', dial.title), { type: 'button', id: 'photo' })
    button.addEventListener('click', () => field.click())
    field.addEventListener('change', () => field.files?.[0] && this.photo(field.files[0]))
    box.append(button, field)
  }
}

/** A program's dials; one of a photo where the effect asks for it and none was made for it. */
export function dialsOf(dials: Dial[], asksForPhoto: boolean, title: string): Dial[] {
  const worn = dials.filter((dial) => dial.kind !== 'photo' || asksForPhoto)
  if (!asksForPhoto || worn.some((dial) => dial.kind === 'photo')) return worn
  const photo: Dial = { id: 'photo', title, kind: 'photo', start: 0, low: 0, high: 1, unit: '', choices: [] }
  return [...worn.slice(0, MOST_WORN - 1), photo, ...worn.slice(MOST_WORN - 1)]
}

/** Pixels of a photo's longer side: what every phone takes. */
const LARGEST_PHOTO = 2048

/** A file as a wearer's photo. Throws where it is no picture. */
export async function photoOf(file: Blob): Promise<ImageBitmap> {
  const whole = await createImageBitmap(file)
  const scale = Math.min(1, LARGEST_PHOTO / Math.max(whole.width, whole.height))
  const size = { resizeWidth: Math.max(1, Math.round(whole.width * scale)), resizeHeight: Math.max(1, Math.round(whole.height * scale)) }
  const photo = await createImageBitmap(whole, { ...size, premultiplyAlpha: 'none' })
  whole.close()
  return photo
}
