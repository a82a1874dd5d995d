<!-- The ways in which an effect leaves as a file, as entries of a menu. -->
<script setup lang="ts">
import { give, type Form } from '../../api/files'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

/** `settled`: resolves when what is seen is saved. */
const props = defineProps<{ id: string; settled?: () => Promise<void> }>()
const { complain } = useMessages()
const FORMS: Record<Form, string> = {
  package: t('list.exportAsAPackageGlaze'),
  document: t('list.exportItsDocumentJson'),
  page: t('list.exportAsAWebPageZip'),
}

async function leave(form: Form): Promise<void> {
  try {
    await props.settled?.()
    await give(props.id, form)
  } catch (error) {
    complain(error)
  }
}
</script>

<template>
  <button v-for="(words, form) in FORMS" :key="form" role="menuitem" @click="leave(form)">{{ words }}</button>
</template>
