<!-- All keys, on one sheet. -->
<script setup lang="ts">
const open = defineModel<boolean>({ required: true })

const GROUPS: { title: string; keys: [string, string][] }[] = [
  {
    title: 'Looking',
    keys: [
      ['Hold B', 'The bare camera'], ['W', 'Wipe'], ['Space', 'Play and pause'], [', and .', 'One frame back, one on'], ['V', 'Slow'],
      ['S', 'Next screen'], ['Z', 'Zoom'], ['Shift H', 'Handles on the picture'], ['H', 'Next scope'], ['I', 'Probe'], ['C', 'Mark what is cut off'], ['G', 'Python or GPU'],
      ['E, R, L', 'Next of the cast, script, light'], ['U', 'The other camera'], ['Shift U', 'Another performer beside'], ['Q', 'Points of faces'], ['K', 'Keep a take'], ['Hold J', 'The latest take'],
    ],
  },
  {
    title: 'Effect',
    keys: [
      ['A', 'Add a layer'], ['Ctrl Z', 'Undo'], ['Ctrl Shift Z', 'Redo'], ['Y', 'Takes and history'], ['1, 2, 3', 'Controls, mask, recipe'],
      ['D', 'Duplicate the layer'], ['X', 'Only this layer (solo)'], ['?', 'This sheet'],
    ],
  },
  {
    title: 'On a tile of the light path',
    keys: [
      ['← →', 'The layer before, the next'], ['Shift ← →', 'Move it'], ['O', 'Switch on and off'], ['N', 'Rename'], ['Delete', 'Remove'],
      ['M', 'Mark it for a group'], ['P', 'Group the marked layers'], ['Ctrl C, Ctrl V', 'Copy, and paste here or elsewhere'],
    ],
  },
  {
    title: 'On a ruler',
    keys: [['← →', 'Turn'], ['Shift ← →', 'Turn ten times as far'], ['Home, End', 'To an end'], ['Hold the name', 'The default']],
  },
  {
    title: 'In the recipe',
    keys: [
      ['F', 'Find a node'], ['Arrows', 'From slip to slip'], ['Shift arrows', 'Move the slip'], ['L', 'Wire from the slip'], ['Delete', 'Remove'],
      ['T', 'Tidy'], ['P', 'Pack'], ['Enter', 'Open a group'], ['Escape', 'Choose nothing; leave the group'], ['0', 'See all'],
      ['Ctrl A, C, X, V', 'Choose all, copy, cut, paste'],
    ],
  },
] // prettier-ignore
</script>

<template>
  <v-dialog v-model="open" max-width="860">
    <section class="sheet keys" aria-label="Keys">
      <header><h2>Keys</h2><button class="word" @click="open = false">Close</button></header>
      <div class="groups">
        <section v-for="group in GROUPS" :key="group.title">
          <h3>{{ group.title }}</h3>
          <dl>
            <template v-for="[key, does] in group.keys" :key="key"><dt class="figure">{{ key }}</dt><dd>{{ does }}</dd></template>
          </dl>
        </section>
      </div>
    </section>
  </v-dialog>
</template>

<style scoped>
.keys {
  padding: 20px 24px 24px;
}
header {
  display: flex;
  justify-content: space-between;
  margin-bottom: 14px;
}
.groups {
  columns: 3;
  column-gap: 32px;
}
.groups section {
  break-inside: avoid;
  margin-bottom: 18px;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 14px;
  margin: 6px 0 0;
}
dt {
  font-size: 12px;
  white-space: nowrap;
}
dd {
  margin: 0;
}
</style>
