/** Finding nodes: what the finder offers and in which order, and where a found node lands. */
import type { NodeKind, Recipe } from '../../api/types'
import { ends, type Ports } from '../../document/recipes'
import type { Find } from './NodeFinder.vue'

/** Choices of an input from which on each is found by its own name, as blend modes, comparisons and easings are. */
const MANY = 5
const RECENT = 'nodes used last'
const MOST_RECENT = 5
const recent = (): string[] => JSON.parse(localStorage.getItem(RECENT) ?? '[]') as string[]
const wordsOf = (choice: string): string => choice.charAt(0).toUpperCase() + choice.slice(1).replace(/-/g, ' ')

/** A kind of node as the finder lists it, and what of its choices people look for by name. */
export function finds(kind: NodeKind): Find[] {
  const icon = `/api/nodes/${kind.kind}/icon`
  const choices = kind.inputs.filter((one) => one.choices.length >= MANY).flatMap((port) => port.choices.map((choice) => ({ port, choice })))
  return [
    { id: kind.kind, title: kind.title, family: kind.family, help: kind.help, icon },
    ...choices.map(({ port, choice }) => ({ id: `${kind.kind}|${port.name}=${choice}`, title: wordsOf(choice), family: kind.title, help: '', icon, typed: true })),
  ]
}

/** What was found, apart: the kind of node, and what is set on it from the start. */
export function chosenOf(id: string): [kind: string, set: Record<string, string>] {
  const [kind = '', choice] = id.split('|')
  const [input, value] = choice?.split('=') ?? []
  localStorage.setItem(RECENT, JSON.stringify([kind, ...recent().filter((one) => one !== kind)].slice(0, MOST_RECENT)))
  return [kind, input && value ? { [input]: value } : {}]
}

/** What was used last first, then what takes what the chosen slip gives. */
export function inOrder(items: Find[], ports: Ports, gives: string | undefined): Find[] {
  const used = recent()
  const fits = (one: Find): boolean => {
    const entry = gives ? ports.kind({ id: '', kind: one.id, name: '', set: {}, at: [0, 0], comment: '' }) : undefined
    return Boolean(entry?.inputs.some((port) => port.type === gives))
  }
  const rank = (one: Find): number => (used.includes(one.id) ? used.indexOf(one.id) - MOST_RECENT : fits(one) ? 0 : 1)
  return [...items].sort((a, b) => rank(a) - rank(b))
}

const WIDE = 170
const HIGH = 110

/** Whether a slip at a place would lie on a wire, which would only look wired to it. */
function onWire(all: Recipe, x: number, y: number): boolean {
  const place = new Map(all.nodes.map((one) => [one.id, one.at]))
  return all.wires.some((one) => {
    const [from, to] = [place.get(ends(one.from)[0]), place.get(ends(one.to)[0])]
    if (!from || !to) return false
    return [0.15, 0.3, 0.45, 0.6, 0.75, 0.9].some((t) => {
      const [px, py] = [from[0] + WIDE + (to[0] - from[0] - WIDE) * t, from[1] + 60 + (to[1] - from[1]) * t]
      return px > x - 12 && px < x + WIDE + 12 && py > y - 12 && py < y + HIGH + 12
    })
  })
}

/** A place with nothing on it: right of the chosen slip, else where it was asked for, and down from there. */
export function free(all: Recipe, chosenAt: [number, number] | undefined, asked: [number, number]): [number, number] {
  const [x, start] = chosenAt ? [chosenAt[0] + 230, chosenAt[1]] : asked
  let y = start
  const taken = (): boolean => all.nodes.some((one) => Math.abs(one.at[0] - x) < 190 && Math.abs(one.at[1] - y) < 130) || onWire(all, x, y)
  for (let n = 0; n < 60 && taken(); n++) y += 70
  return [x, y]
}
