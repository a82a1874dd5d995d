/** A recipe as Vue Flow draws it: a slip for each node and one for what it gives, wires with their type, and faults at their place. */
import type { Edge, Node } from '@vue-flow/core'
import { computed } from 'vue'
import type { Control, Plain, Recipe } from '../../api/types'
import type { Shown, SlipData } from './SlipNode.vue'
import { ends, GROUP, RESULT, words, type Ports } from '../../document/recipes'
import type { Previews } from '../desk/usePreviews'
import type { RecipeWork } from './useRecipe'
import { t } from '../../words'

const SIGNS: Record<string, string> = { degrees: '°', 'reference pixels': ' px', seconds: ' s' }

/** What is set on an input, as short as a slip has room for. */
function plainWords(control: Control, value: Plain): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'number') return `${Number(value.toFixed(3))}${SIGNS[control.unit] ?? ''}`
  if (typeof value === 'boolean') return value ? 'on' : 'off'
  if (typeof value === 'string') return value.length > 20 ? 'chosen' : value
  if (Array.isArray(value) && value.every((one) => typeof one === 'number')) return value.map((one) => Number(Number(one).toFixed(2))).join(', ')
  return 'set'
}

const byEnd = (end: string | null | undefined): [string, string] => (end ? ends(end) : ['', ''])

/** `drives`: whether it is the recipe of a drive, which gives a number, or a colour. */
export function useSlips(work: RecipeWork, ports: () => Ports, previews: Previews, drives: () => boolean) {
  const { recipe, path, chosen } = work

  function slip(one: Recipe['nodes'][number], all: Recipe): SlipData {
    const wired = new Set(all.wires.map((each) => each.to))
    const controls = new Map(all.inputs.flatMap((input) => input.to.map((end) => [end, input.title || words(input.id)])))
    const given = ports().inputs(all, one)
    return {
      title: ports().title(all, one),
      kind: one.kind,
      group: one.kind.startsWith(GROUP),
      comment: one.comment,
      result: false,
      outputs: ports().outputs(all, one),
      inputs: given.map((port) => {
        const end = `${one.id}.${port.name}`
        const control = wired.has(end) ? undefined : controls.get(end)
        return {
          name: port.name,
          title: port.title,
          type: port.type,
          wired: wired.has(end) || ports().wire(port.type) === '',
          control: control !== undefined,
          words: wired.has(end) ? '' : control === port.title ? 'control' : (control ?? plainWords(port, one.set[port.name] ?? port.default)),
        }
      }),
    }
  }

  const nodes = computed<Node[]>(() => {
    const all = recipe.value
    if (!all) return []
    const found: Node[] = all.nodes.map((one) => ({ id: one.id, type: 'slip', position: { x: one.at[0], y: one.at[1] }, data: slip(one, all), selected: chosen.value.has(one.id) }))
    const right = Math.max(0, ...all.nodes.map((one) => one.at[0])) + 230
    const last = all.nodes.find((one) => one.id === byEnd(all.result ?? all.outputs[0]?.from)[0])
    const given = path.value.length
      ? [...all.outputs.map((one) => ({ name: one.id, title: words(one.id) })), { name: 'more', title: 'another' }]
      : [{ name: 'colour', title: !drives() || all.family === 'colour' ? 'colour' : 'number' }]
    const data: SlipData = {
      title: path.value.length ? t('recipe.outOfTheGroup') : drives() ? t('recipe.theControl') : t('recipe.theLayer'),
      kind: '', group: false, comment: '', result: true, outputs: [],
      inputs: given.map((one) => ({ ...one, type: 'colour', words: '', control: false, wired: true })),
    } // prettier-ignore
    found.push({ id: RESULT, type: 'slip', position: { x: right, y: last?.at[1] ?? 60 }, data, draggable: false, selectable: false })
    return found
  })

  const wrongEnds = computed(() => {
    const here = previews.faults.value.filter((fault) => fault.path.join('/') === path.value.join('/'))
    return new Map(here.map((fault) => [`${fault.node ?? RESULT}.${fault.input ?? ''}`, fault.message]))
  })

  function faultsOf(id: string): string[] {
    return previews.faults.value
      .filter((fault) => {
        const inside = fault.path.length > path.value.length && fault.path[path.value.length] === id
        return inside || (fault.path.join('/') === path.value.join('/') && (fault.node ?? RESULT) === id)
      })
      .map((fault) => fault.message)
  }

  function shown(id: string): Shown {
    const last = id === RESULT ? byEnd(recipe.value?.result)[0] : id
    return { view: previews.nodes.value[last ?? ''], sheet: previews.sheet.value, ...previews.size, faults: faultsOf(id) }
  }

  const edges = computed<Edge[]>(() => {
    const all = recipe.value
    if (!all) return []
    const out: [string, string][] = all.wires.map((one) => [one.from, one.to])
    if (!path.value.length && all.result) out.push([all.result, `${RESULT}.colour`])
    if (path.value.length) for (const one of all.outputs) out.push([one.from, `${RESULT}.${one.id}`])
    return out.map(([from, to]) => {
      const [source, sourceHandle] = ends(from)
      const [target, targetHandle] = ends(to)
      const type = previews.nodes.value[source]?.type && ports().typeOf(all, from) === 'any' ? (previews.nodes.value[source]?.type ?? 'any') : ports().typeOf(all, from)
      return { id: to, type: 'wire', source, sourceHandle, target, targetHandle, data: { look: ports().wire(type), wrong: wrongEnds.value.has(to) } }
    })
  })

  return { nodes, edges, shown }
}
