/** What moves an effect: its cues, its dials, and the sentences that say what a drive or cue does. */
import { address } from './address'
import { newId } from './layers'
import { playedOf } from './material'
import type { Catalogue, Control, Cue, Drive, DriveKind, Effect, Plain } from '../api/types'
import { endsOf, type Dial } from '../engine/dials'
import { t } from '../words'

/** Set what lies at an address of a cue, a dial or a group's drive. False where it is not there. */
export function assignMotion(draft: Effect, holder: string, text: string, value: Plain): boolean {
  const { part, name, of } = address(holder, text)
  if (part === 'drive') {
    const drive = draft.groups.find((one) => one.id === holder)?.drives[of]
    if (drive) drive.values[name] = value
    return Boolean(drive)
  }
  if (part === 'cue') {
    const cue = draft.cues.find((one) => one.id === of)
    if (cue) cue.values[name] = value
    return Boolean(cue)
  }
  const dial = part === 'dial' ? draft.dials.find((one) => one.id === of) : undefined
  if (dial) Object.assign(dial, { [name]: value })
  return Boolean(dial)
}

/** Pieces of a sentence: words, and controls among them. What hangs on a control that stands otherwise is left out. */
export type Piece = string | { control: string }

export function piecesOf(sentence: string, stands: (control: string) => Plain): Piece[] {
  const said = sentence.replace(/\[(\w+)(>=|!=|=)([^:\]]*):([^\]]*)\]/g, (_, name: string, how: string, wanted: string, words: string) => {
    const now = stands(name)
    const holds = how === '>=' ? Number(now) >= Number(wanted) : (String(now) === wanted) === (how === '=')
    return holds ? words : ''
  })
  return said.split(/(\{\w+\})/).filter(Boolean).map((piece) => (piece.startsWith('{') ? { control: piece.slice(1, -1) } : piece))
}

/** The cues that something may answer to: the effect's own by their names, then the kinds that none of them is called by. */
export function cuesOf(effect: Effect | null, catalogue: Catalogue | null): { own: [string, string][]; kinds: [string, string][] } {
  const own = (effect?.cues ?? []).map((cue): [string, string] => [cue.id, cue.name])
  const taken = new Set(own.map(([id]) => id))
  return { own, kinds: (catalogue?.cues ?? []).filter((one) => !taken.has(one.kind)).map((one) => [one.kind, one.name]) }
}

/** A cue of the effect's own; the first of its kind goes by the kind's id, so that what answered to the kind goes on doing so. */
export function newCue(effect: Effect, kind: DriveKind): Cue {
  const taken = new Set(effect.cues.map((one) => one.id))
  const names = new Set(effect.cues.map((one) => one.name))
  let name = kind.name
  for (let n = 2; names.has(name); n++) name = `${kind.name} ${n}`
  return { id: taken.has(kind.kind) ? newId().slice(0, 12) : kind.kind, name, kind: kind.kind, values: { ...kind.start }, recipe: null }
}

export function newDial(effect: Effect, kind: Dial['kind'], title: string, start?: number | string): Dial {
  const titles = new Set(effect.dials.map((one) => one.title))
  let name = title.slice(0, 36)
  for (let n = 2; titles.has(name); n++) name = `${title.slice(0, 36)} ${n}`
  const choices = kind === 'choice' ? [t('motions.first'), t('motions.second'), t('motions.third')] : []
  const plain: Dial = { id: newId().slice(0, 12), title: name, kind, start: 0, low: 0, high: 100, unit: '%', choices }
  return { ...plain, start: start ?? (kind === 'number' ? 0.5 : endsOf(plain)[kind === 'colour' ? 1 : 0]) }
}

/** Whether a dial of this kind may be what a kind of drive is turned by. */
export function dialFits(drive: string, dial: Dial): boolean {
  if (drive === 'dial-colour') return dial.kind === 'colour'
  if (drive === 'dial-steps') return dial.kind === 'choice' || dial.kind === 'switch'
  return dial.kind === 'number' || dial.kind === 'switch'
}

/** What answers to a cue, or is turned by a dial: the names of controls and layers. */
export function usersOf(effect: Effect, kind: 'cue' | 'dial', id: string): string[] {
  const named = (values: Record<string, Plain>) =>
    Object.entries(values).some(([name, value]) => (name === kind && value === id) || (kind === 'cue' && playedOf(value)?.cue === id))
  const drives = [...effect.layers, ...effect.groups].flatMap((holder) =>
    Object.entries(holder.drives).filter(([, drive]) => named(drive.values)).map(([control]) => `${holder.name}: ${control.replace(/^\w+:/, '').replaceAll('_', ' ')}`),
  )
  const layers = kind === 'cue' ? effect.layers.filter((layer) => named(layer.values)).map((layer) => layer.name) : []
  return [...layers, ...drives]
}

/** What a new drive's ends stand at, by their names: round what the control stands at; by cues and dials, from there to the other end. */
export function endsFor(kind: DriveKind, control: Control, now: number): [string, number][] {
  const screen = control.unit === 'screen'
  const [low, high] = [control.low ?? (screen || control.type === 'boolean' ? 0 : null), control.high ?? (screen || control.type === 'boolean' ? 1 : null)]
  const ends = kind.controls.filter((one) => one.driven)
  const span = low !== null && high !== null ? high - low : 2
  const held = (value: number) => Number(Math.min(high ?? Infinity, Math.max(low ?? -Infinity, value)).toFixed(4))
  if (kind.family === 'dial' && ends.length === 2) return ends.map((one, n) => [one.name, held(n ? (high ?? now + 1) : (low ?? now))])
  const other = low !== null && high !== null ? (now - low > span / 2 ? low : high) : now + 1
  if (kind.family === 'cue' || kind.family === 'dial') return ends.map((one, n) => [one.name, held(n % 3 === 0 ? now : n % 3 === 1 ? other : (now + other) / 2)])
  // An eighth of the range to either side: seen at once, and not too much.
  const reach = low !== null && high !== null ? span / 8 : 0.25
  return ends.map((one, n) => [one.name, held(n ? now + reach : now - reach)])
}

export type { Cue, Dial, Drive }
