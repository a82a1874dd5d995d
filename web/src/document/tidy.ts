/** Nodes put in columns from left to right in the order in which they need each other. */
import dagre from '@dagrejs/dagre'
import type { Recipe } from '../api/types'
import { ends, RESULT } from './recipes'

export interface Size {
  width: number
  height: number
}

export function tidied(recipe: Recipe, size: (id: string) => Size): Map<string, [number, number]> {
  const graph = new dagre.graphlib.Graph({ multigraph: true })
  graph.setGraph({ rankdir: 'LR', nodesep: 26, ranksep: 64, marginx: 30, marginy: 30 })
  graph.setDefaultEdgeLabel(() => ({}))
  for (const node of recipe.nodes) graph.setNode(node.id, { ...size(node.id) })
  graph.setNode(RESULT, { ...size(RESULT) })
  recipe.wires.forEach((wire, n) => graph.setEdge(ends(wire.from)[0], ends(wire.to)[0], {}, String(n)))
  const out = [recipe.result, ...recipe.outputs.map((one) => one.from)].filter((end): end is string => !!end)
  out.forEach((end, n) => graph.setEdge(ends(end)[0], RESULT, {}, `result ${n}`))
  dagre.layout(graph)
  return new Map(
    recipe.nodes.map((node) => {
      const at = graph.node(node.id) as { x: number; y: number; width: number; height: number }
      return [node.id, [Math.round(at.x - at.width / 2), Math.round(at.y - at.height / 2)]]
    }),
  )
}
