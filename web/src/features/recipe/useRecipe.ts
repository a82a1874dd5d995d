/**
 * One layer's recipe, or that of what drives a control of it, being worked on: where in its groups one stands, what is chosen, and every change as one gesture. A ready-made
 * layer's recipe becomes the layer's own with the first change.
 */
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api } from '../../api/client'
import type { Effect, Layer, LayerGroup, Plain, Recipe, RecipeNode } from '../../api/types'
import { fitToControls, OWN } from '../../document/layers'
import {
  addGroup, addNode, connect, cutting, disconnect, ends, expose, GROUP, insertOn, pack, paste, removeNodes, RESULT, setInput, unpack, within,
  type Cutting, type Ports,
} from '../../document/recipes' // prettier-ignore
import type { EffectDocument } from '../../document/useEffectDocument'
import { t } from '../../words'

const CLIPBOARD = 'cut nodes'

/**
 * `drive`: the control whose drive is worked on, in place of the layer's own recipe; `group`: of which group it is, where it is not the
 * layer's.
 */
export function useRecipe(doc: EffectDocument, layer: Ref<Layer | null>, ports: Ref<Ports | null>, drive: Ref<string | null>, group: Ref<LayerGroup | null>) {
  const shipped = shallowRef<Recipe | null>(null)
  const path = ref<string[]>([])
  const chosen = ref(new Set<string>())
  const wire = ref<string | null>(null)

  const owner = computed(() => group.value ?? layer.value)
  const holder = computed(() => (drive.value === null ? layer.value : (owner.value?.drives[drive.value] ?? null)))
  const root = computed<Recipe | null>(() => (holder.value?.kind === OWN ? holder.value.recipe : shipped.value))
  const recipe = computed<Recipe | null>(() => (root.value && within(root.value, path.value)) ?? null)
  const node = computed(() => {
    const only = chosen.value.size === 1 ? [...chosen.value][0] : null
    return recipe.value?.nodes.find((one) => one.id === only) ?? null
  })

  watch(
    [() => holder.value?.kind, drive],
    async ([kind, control], before) => {
      shipped.value = null
      if (before[1] !== undefined && before[1] !== control) path.value = []
      if (kind && kind !== OWN) shipped.value = await (control === null ? api.recipeOf(kind) : api.driveRecipe(kind)).catch(() => null)
    },
    { immediate: true },
  )
  watch(recipe, (now) => {
    if (!now && root.value && path.value.length) path.value = []
    chosen.value = new Set([...chosen.value].filter((id) => now?.nodes.some((one) => one.id === id)))
  })

  /** Change the recipe one stands in; `gesture` is its name in the undo list. */
  const change = (gesture: string, edit: (draft: Recipe) => void) => doc.change(`${owner.value?.name}: ${gesture}`, inRecipe(edit))

  /** An edit of the recipe one stands in as one of the effect. */
  function inRecipe(edit: (draft: Recipe) => void): (draft: Effect) => void {
    const id = owner.value?.id
    const base = shipped.value
    const way = [...path.value]
    const control = drive.value
    return (draft) => {
      const found = draft.layers.find((one) => one.id === id)
      const target = control !== null ? (found ?? draft.groups.find((one) => one.id === id))?.drives[control] : found
      if (!target) return
      if (target.kind !== OWN && base) {
        target.recipe = structuredClone(base)
        target.kind = OWN
      }
      const here = target.recipe && within(target.recipe, way)
      if (here) edit(here)
      if (!target.recipe || !ports.value) return
      const controls = ports.value.controls(target.recipe)
      if (found && target === found) fitToControls(found, controls, ports.value.types)
      else target.values = Object.fromEntries(Object.entries(target.values).filter(([name]) => controls.some((one) => one.name === name)))
    }
  }

  function choose(ids: Iterable<string>): void {
    chosen.value = new Set(ids)
  }

  const title = (id: string) => {
    const found = recipe.value?.nodes.find((one) => one.id === id)
    return found && recipe.value && ports.value ? ports.value.title(recipe.value, found) : id
  }

  return {
    root,
    recipe,
    path,
    chosen,
    wire,
    node,
    choose,
    title,
    change,
    enter(id: string): void {
      path.value = [...path.value, id]
      choose([])
    },
    leave(depth = path.value.length - 1): void {
      const was = path.value[depth]
      path.value = path.value.slice(0, Math.max(0, depth))
      choose(was ? [was] : [])
    },
    connect(from: string, to: string): void {
      change(t('recipe.wireTo', { title: title(ends(from)[0]), which: ends(to)[0] === RESULT ? t('recipe.theResult') : title(ends(to)[0]) }), (draft) => connect(draft, from, to))
    },
    disconnect(to: string): void {
      change(t('recipe.takeAWireAway'), (draft) => disconnect(draft, to))
      wire.value = null
    },
    /** Place a node; from a wire that was dropped, wired to it; on a chosen wire, put into it. */
    add(kind: string, at: [number, number], dropped: { end: string; isSource: boolean } | null, set: RecipeNode['set'] = {}): void {
      const entry = ports.value?.kind({ id: '', kind, name: '', set: {}, at, comment: '' })
      let made = ''
      change(t('recipe.add', { title: entry?.title ?? 'a group' }), (draft) => {
        if (!ports.value) return
        if (wire.value && entry && !dropped) {
          const put = insertOn(draft, ports.value, wire.value, entry)
          if (put) {
            made = put.id
            Object.assign(put.set, set)
            return
          }
        }
        const fresh = addNode(draft, kind, at)
        Object.assign(fresh.set, set)
        made = fresh.id
        const inputs = ports.value.inputs(draft, fresh)
        const outputs = ports.value.outputs(draft, fresh)
        if (dropped?.isSource) {
          const given = ports.value.typeOf(draft, dropped.end)
          const fit = inputs.find((port) => port.type === given) ?? inputs.find((port) => ports.value?.converts(given, port.type))
          if (fit) connect(draft, dropped.end, `${fresh.id}.${fit.name}`)
        } else if (dropped && outputs[0]) connect(draft, `${fresh.id}.${outputs[0].name}`, dropped.end)
      })
      wire.value = null
      choose([made])
    },
    /** Place a group that was kept, wired as `add` does. */
    addKept(group: Recipe, at: [number, number], dropped: { end: string; isSource: boolean } | null): void {
      let made = ''
      change(t('recipe.add', { title: group.name }), (draft) => {
        const fresh = addGroup(draft, group, at)
        made = fresh.id
        const given = dropped?.isSource ? ports.value?.typeOf(draft, dropped.end) : undefined
        const fit = given === undefined ? undefined : ports.value?.inputs(draft, fresh).find((port) => ports.value?.converts(given, port.type))
        const out = ports.value?.outputs(draft, fresh)[0]
        if (dropped?.isSource && fit) connect(draft, dropped.end, `${fresh.id}.${fit.name}`)
        else if (dropped && !dropped.isSource && out) connect(draft, `${fresh.id}.${out.name}`, dropped.end)
      })
      choose([made])
    },
    remove(): void {
      if (wire.value) {
        this.disconnect(wire.value)
        return
      }
      const ids = new Set(chosen.value)
      if (!ids.size) return
      change(ids.size === 1 ? t('recipe.remove', { title: title([...ids][0] ?? '') }) : t('recipe.removeNodes', { size: ids.size }), (draft) => removeNodes(draft, ids))
    },
    copy(): void {
      if (recipe.value && chosen.value.size) localStorage.setItem(CLIPBOARD, JSON.stringify(cutting(recipe.value, chosen.value)))
    },
    paste(by: [number, number]): void {
      const held = JSON.parse(localStorage.getItem(CLIPBOARD) ?? 'null') as Cutting | null
      if (!held?.nodes.length) return
      let fresh = new Set<string>()
      change(t('recipe.pasteNode', { count: held.nodes.length, which: held.nodes.length > 1 ? 's' : '' }), (draft) => (fresh = paste(draft, held, by)))
      choose(fresh)
    },
    pack(name: string): void {
      const ids = new Set(chosen.value)
      if (!ids.size) return
      let made = ''
      change(t('recipe.packNodesInto', { size: ids.size, name }), (draft) => (made = pack(draft, ids, name)))
      choose([made])
    },
    unpack(id: string): void {
      let fresh = new Set<string>()
      change(t('recipe.unpack2', { title: title(id) }), (draft) => (fresh = unpack(draft, id)))
      choose(fresh)
    },
    place(places: Map<string, [number, number]>): void {
      change(places.size === 1 ? t('recipe.move', { title: title([...places.keys()][0] ?? '') }) : t('recipe.moveNodes'), (draft) => {
        for (const one of draft.nodes) one.at = places.get(one.id) ?? one.at
      })
    },
    /** Turn what is set on a node: a move where it is set on the outermost level of an own recipe, else the whole effect is shown. */
    turn(end: string, value: Plain): void {
      const isSet = recipe.value?.nodes.some((one) => one.id === ends(end)[0] && one.set[ends(end)[1]] !== undefined)
      if (drive.value === null && layer.value?.kind === OWN && !path.value.length && value !== null && isSet) doc.turn(layer.value.id, end, value)
      else doc.sketch(inRecipe((draft) => setInput(draft, end, value)))
    },
    commit: (end: string) => doc.commit(t('recipe.of', { name: owner.value?.name, ends: ends(end)[1], title: title(ends(end)[0]) })),
    expose: (end: string) => change(t('recipe.controlOf', { ends: ends(end)[1], title: title(ends(end)[0]) }), (draft) => expose(draft, end)),
    rename(name: string): void {
      const id = node.value?.id
      change(id ? t('recipe.nameANode', { name }) : t('recipe.nameTheRecipe', { name }), (draft) => {
        const target = draft.nodes.find((one) => one.id === id)
        const group = target?.kind.startsWith(GROUP) ? draft.groups[target.kind.slice(GROUP.length)] : undefined
        if (group && name) group.name = name
        else if (target) target.name = name
        else if (name) draft.name = name
      })
    },
    comment(text: string): void {
      const id = node.value?.id
      change('comment', (draft) => {
        const target = draft.nodes.find((one) => one.id === id)
        if (target) target.comment = text
      })
    },
    control(id: string, given: object): void {
      change('a control', (draft) => {
        const target = draft.inputs.find((one) => one.id === id)
        if (target) Object.assign(target, given)
      })
    },
    replace(fresh: Recipe, gesture: string): void {
      path.value = []
      change(gesture, (draft) => Object.assign(draft, fresh))
    },
  }
}

export type RecipeWork = ReturnType<typeof useRecipe>
