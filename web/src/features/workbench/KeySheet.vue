<!-- All keys, on one sheet. -->
<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { t } from '../../words'
const open = defineModel<boolean>({ required: true })
const sheet = ref<HTMLElement | null>(null)
watch(open, async (now) => {
  await nextTick()
  if (now) sheet.value?.focus()
}, { immediate: true })

const GROUPS: { title: string; keys: [string, string][] }[] = [
  {
    title: t('workbench.looking'),
    keys: [
      [t('workbench.holdB'), t('workbench.theBareCamera')], ['W', t('workbench.wipe')], ['Space', t('workbench.playAndPause')], [', and .', t('workbench.oneFrameBackOneOn')], ['V', t('workbench.slow')],
      ['S', t('workbench.nextScreen')], ['Z', t('workbench.zoom')], [t('workbench.shiftH'), t('workbench.handlesOnThePicture')], ['H', t('workbench.nextScope')], ['I', t('workbench.probe')], ['C', t('workbench.markWhatIsCutOff')], ['G', t('workbench.pythonOrGpu')],
      ['E, R, L', t('workbench.nextOfTheCastScriptLight')], ['U', t('workbench.theOtherCamera')], [t('workbench.shiftU'), t('workbench.anotherPerformerBeside')], ['Q', t('workbench.pointsOfFaces')], ['K', t('workbench.keepATake')], ['4', t('workbench.theShelfKey')], ['F', t('workbench.tryIt')], [t('workbench.shiftF'), t('workbench.theScore')], [t('workbench.holdJ'), t('workbench.theLatestTake')],
    ],
  },
  {
    title: t('workbench.effect'),
    keys: [
      ['A', t('workbench.addALayer')], [t('workbench.ctrlZ'), t('workbench.undo2')], [t('workbench.ctrlShiftZ'), t('workbench.redo2')], ['Y', t('workbench.takesAndHistory')], ['1, 2, 3', t('workbench.controlsMaskRecipe')], ['5', t('workbench.cuesAndDialsKey')], ['0', t('workbench.dialsKey')],
      ['D', t('workbench.duplicateTheLayer')], ['X', t('workbench.onlyThisLayerSolo')], ['?', t('workbench.thisSheet')],
    ],
  },
  {
    title: t('workbench.onATileOfTheLight'),
    keys: [
      ['← →', t('workbench.theLayerBeforeTheNext')], [t('workbench.shift'), t('workbench.moveIt')], ['O', t('workbench.switchOnAndOff')], ['N', t('workbench.rename')], ['Delete', t('workbench.remove')],
      ['M', t('workbench.markItForAGroup')], ['P', t('workbench.groupTheMarkedLayers')], [t('workbench.ctrlCCtrlV'), t('workbench.copyAndPasteHereOrElsewhere')],
    ],
  },
  {
    title: t('workbench.onARuler'),
    keys: [['← →', t('workbench.turn')], [t('workbench.shift'), t('workbench.turnTenTimesAsFar')], [t('workbench.homeEnd'), t('workbench.toAnEnd')], [t('workbench.holdTheName'), t('workbench.theDefault')]],
  },
  {
    title: t('workbench.inTheRecipe'),
    keys: [
      ['F', t('workbench.findANode')], ['Arrows', t('workbench.fromSlipToSlip')], [t('workbench.shiftArrows'), t('workbench.moveTheSlip')], ['L', t('workbench.wireFromTheSlip')], ['Delete', t('workbench.remove')],
      ['T', t('workbench.tidy')], ['P', t('workbench.pack')], ['Enter', t('workbench.openAGroup')], ['Escape', t('workbench.chooseNothingLeaveTheGroup')], ['0', t('workbench.seeAll')],
      [t('workbench.ctrlACXV'), t('workbench.chooseAllCopyCutPaste')],
    ],
  },
] // prettier-ignore
</script>

<template>
  <section v-if="open" ref="sheet" class="sheet hanging keys" role="dialog" tabindex="-1" :aria-label="t('workbench.keys')" @keydown.esc.stop="open = false">
    <header><h2>{{ t('workbench.keys') }}</h2><button class="word" @click="open = false">{{ t('workbench.close') }}</button></header>
    <div class="groups">
      <section v-for="group in GROUPS" :key="group.title">
        <h3>{{ group.title }}</h3>
        <dl>
          <template v-for="[key, does] in group.keys" :key="key"><dt class="figure">{{ key }}</dt><dd>{{ does }}</dd></template>
        </dl>
      </section>
    </div>
  </section>
</template>

<style scoped>
.keys {
  width: calc(100% - 36px);
  max-width: 1080px;
}
header {
  display: flex;
  justify-content: space-between;
  margin-bottom: 14px;
}
.groups {
  columns: 240px;
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
