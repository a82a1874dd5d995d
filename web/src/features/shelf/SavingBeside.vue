<!-- What a saving costs to the eye: its worst picture in the effect, over who sits there, as it was and saved. -->
<script setup lang="ts">
import { ref, watch } from 'vue'
import { api } from '../../api/client'
import { patiently } from '../../api/patiently'
import type { FormWeight, SavingShown } from '../../api/types'
import { useEyes } from '../picture/useEyes'
import { t } from '../../words'

const props = defineProps<{ root: string; used: string; form: FormWeight; name: string; frames: number }>()
const eyes = useEyes()
const shown = ref<SavingShown | null>(null)
const trouble = ref('')

// The frame runs on; it is no reason to look again.
watch([eyes.effect, eyes.sitting, eyes.screen, () => props.form], ([effect, sitting, screen, { form, worst }], _, onCleanup) => {
  if (!effect) return
  const asked = { effect, used: props.used, form, number: worst, sitting, screen, frame: eyes.frame() }
  let stale = false
  onCleanup(() => (stale = true))
  trouble.value = ''
  void patiently(() => api.savingBeside(props.root, asked), () => !stale).then(
    (found) => !stale && (shown.value = found),
    (error: unknown) => !stale && (trouble.value = error instanceof Error ? error.message : String(error)),
  )
}, { immediate: true }) // prettier-ignore
</script>

<template>
  <div class="beside">
    <p v-if="trouble" class="bad" role="alert">{{ trouble }}</p>
    <p v-else-if="!shown" class="second" role="status">{{ t('weight.laidBeside') }}</p>
    <template v-else>
      <figure>
        <img :src="shown.was" :alt="t('weight.asItWas')" />
        <figcaption>{{ t('weight.asItWas') }}</figcaption>
      </figure>
      <figure>
        <img :src="shown.saved" :alt="name" />
        <figcaption>{{ name }}<template v-if="frames > 1">, {{ t('weight.worstPicture', { number: form.worst + 1, of: frames }) }}</template></figcaption>
      </figure>
    </template>
  </div>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px;
  margin-top: 8px;
}
.beside p {
  grid-column: 1 / -1;
}
figure {
  margin: 0;
}
img {
  width: 100%;
  display: block;
}
figcaption {
  font-size: 12px;
  padding-top: 4px;
}
.second {
  color: var(--second);
}
.bad {
  color: var(--bad);
}
</style>
