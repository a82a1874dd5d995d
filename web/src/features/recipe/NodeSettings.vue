<!-- The chosen node, or the recipe itself: what is set on it, what it has as controls, its name and a comment. -->
<script setup lang="ts">
import { computed } from 'vue'
import type { Plain, Recipe, RecipeNode } from '../../api/types'
import { GROUP, type Ports } from '../../document/recipes'
import ControlLine from '../controls/ControlLine.vue'
import { t } from '../../words'

const props = defineProps<{ recipe: Recipe; node: RecipeNode | null; ports: Ports; stages: [string, string][]; inGroup: boolean }>()
const emit = defineEmits<{
  turn: [input: string, value: Plain]
  commit: [input: string]
  unwire: [input: string]
  expose: [input: string]
  rename: [name: string]
  comment: [text: string]
  open: []
  unpack: []
  keep: []
  control: [id: string, change: { title?: string; low?: number | null; high?: number | null }]
}>()

const lines = computed(() => {
  const { node, recipe, ports } = props
  if (!node) return []
  return ports.inputs(recipe, node).map((port) => {
    const end = `${node.id}.${port.name}`
    const wire = recipe.wires.find((one) => one.to === end)
    const from = wire && recipe.nodes.find((one) => `${one.id}.` === wire.from.slice(0, one.id.length + 1))
    const given = recipe.inputs.find((one) => one.to.includes(end))
    const settable = ports.wire(port.type) !== 'film' && !(port.type === 'vec2' && port.default === null)
    return {
      port: { ...port, type: port.type === 'mask' || port.type === 'any' ? ('number' as const) : port.type },
      end,
      from: wire ? (from ? ports.title(recipe, from) : t('recipe.aNodeThatIsGone')) : '',
      control: given && !wire ? given.title || given.id : '',
      settable,
      exposable: settable || ports.wire(port.type) !== '',
      value: node.set[port.name] ?? port.default,
    }
  })
})
const help = computed(() => (props.node ? props.ports.kind(props.node)?.help : props.recipe.help))
const number = (text: string): number | null => (text.trim() === '' || !Number.isFinite(Number(text)) ? null : Number(text))
const text = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <aside class="settings" :aria-label="node ? t('recipe.settingsOf', { title: ports.title(recipe, node) }) : t('recipe.controlsOfTheRecipe')">
    <template v-if="node">
      <input class="field name" :value="ports.title(recipe, node)" maxlength="80" :aria-label="t('recipe.nameOfTheNode')" @change="emit('rename', text($event))" />
      <p class="help">{{ help }}</p>
      <div v-for="line in lines" :key="line.end" class="line">
        <p v-if="line.from" class="wired">
          <span>{{ line.port.title }}</span><span>{{ t('recipe.from') }} <b>{{ line.from }}</b></span>
          <button class="word" @click="emit('unwire', line.end)">{{ t('recipe.unwire') }}</button>
        </p>
        <p v-else-if="line.control" class="wired">
          <span>{{ line.port.title }}</span><span>{{ t('recipe.control') }} <b>{{ line.control }}</b></span>
          <button class="word" @click="emit('expose', line.end)">{{ t('recipe.takeBack') }}</button>
        </p>
        <template v-else-if="line.settable">
          <ControlLine
            :control="line.port" :value="line.value" :stages="stages" @turn="emit('turn', line.end, $event)" @commit="emit('commit', line.end)"
            @choose="emit('turn', line.end, $event), emit('commit', line.end)" />
          <button class="word expose" @click="emit('expose', line.end)">{{ t('recipe.makeItAControl') }}</button>
        </template>
        <p v-else class="wired">
          <span>{{ line.port.title }}</span><span>{{ t('recipe.whatLiesHere') }}</span>
          <button v-if="inGroup && line.exposable" class="word" @click="emit('expose', line.end)">{{ t('recipe.makeItAnInputOfThe') }}</button>
        </p>
      </div>
      <p v-if="node.kind.startsWith(GROUP)" class="acts">
        <button class="act" @click="emit('open')">{{ t('recipe.open') }}</button><button class="act" @click="emit('unpack')">{{ t('recipe.unpack') }}</button><button class="act" :title="t('recipe.itIsFoundByItsName')" @click="emit('keep')">{{ t('recipe.keepIt') }}</button>
      </p>
      <label class="comment">{{ t('recipe.comment') }}<textarea class="field" rows="2" :value="node.comment" @change="emit('comment', text($event))" /></label>
    </template>
    <template v-else>
      <input class="field name" :value="recipe.name" maxlength="80" :aria-label="t('recipe.nameOfTheRecipe')" @change="emit('rename', text($event))" />
      <p class="help">{{ t('recipe.chooseANodeToMakeMore', { which: inGroup ? t('recipe.inputsOfThisGroup') : t('recipe.controlsThatTheLayerShows') }) }}</p>
      <div v-for="input in recipe.inputs" :key="input.id" class="given">
        <input class="field" :value="input.title || input.id" :aria-label="t('recipe.nameOfTheControl')" @change="emit('control', input.id, { title: text($event) })" />
        <span class="range">
          <input class="field figure" :value="input.low ?? ''" :placeholder="t('recipe.from')" :aria-label="t('recipe.leastOf', { title: input.title })" @change="emit('control', input.id, { low: number(text($event)) })" />
          <input class="field figure" :value="input.high ?? ''" :placeholder="t('recipe.to')" :aria-label="t('recipe.mostOf', { title: input.title })" @change="emit('control', input.id, { high: number(text($event)) })" />
        </span>
      </div>
      <p v-if="!recipe.inputs.length" class="help">{{ t('recipe.noneYet') }}</p>
    </template>
  </aside>
</template>

<style scoped>
.settings {
  width: 300px;
  padding: 12px 16px 20px;
  background: var(--paper);
  border-left: 1px solid var(--line);
  overflow: auto;
}
.name {
  width: 100%;
  font-size: 17px;
  font-weight: 650;
}
.help {
  color: var(--second);
  font-size: 12px;
  margin: 6px 0 10px;
}
.line {
  border-top: 1px solid #ece7db;
  padding: 3px 0 5px;
}
.settings :deep(.control) {
  grid-template-columns: 74px minmax(60px, 1fr) 72px;
  column-gap: 10px;
}
.settings :deep(.choice),
.settings :deep(.vector),
.settings :deep(.asset) {
  grid-template-columns: 74px minmax(0, 1fr);
  column-gap: 10px;
}
.wired {
  display: grid;
  grid-template-columns: 74px 1fr auto;
  gap: 10px;
  align-items: baseline;
  min-height: 26px;
}
.expose {
  font-size: 12px;
  color: var(--second);
}
.acts {
  display: flex;
  gap: 10px;
  margin: 12px 0;
}
.comment {
  display: block;
  margin-top: 12px;
  color: var(--second);
}
.comment textarea {
  width: 100%;
  color: var(--ink);
  resize: vertical;
}
.given {
  display: flex;
  gap: 12px;
  margin-bottom: 8px;
}
.given > .field {
  flex: 1;
  font-weight: 650;
}
.range {
  display: flex;
  gap: 8px;
}
.range .field {
  width: 52px;
  text-align: right;
}
</style>
