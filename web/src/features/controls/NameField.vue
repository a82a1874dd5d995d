<!-- A name while it is being typed: Enter or leaving the field takes it, Escape leaves it as it was. -->
<script setup lang="ts">
import { onMounted, ref } from 'vue'

const props = defineProps<{ name: string }>()
const emit = defineEmits<{ named: [name: string]; close: [] }>()
const field = ref<HTMLInputElement | null>(null)
let open = true
onMounted(() => field.value?.select())

function leave(take: boolean): void {
  if (!open) return
  open = false
  const name = field.value?.value.trim() ?? ''
  if (take && name && name !== props.name) emit('named', name)
  emit('close')
}
</script>

<template>
  <input ref="field" class="field" :value="name" maxlength="80" @keydown.enter="leave(true)" @keydown.esc="leave(false)" @blur="leave(true)" />
</template>
