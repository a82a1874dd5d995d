<!-- Where a colour is chosen by eye. Loaded when it is first opened: it is a tenth of the page's scripts. -->
<script setup lang="ts">
defineProps<{ value: string }>()
const emit = defineEmits<{ picked: [colour: string] }>()
</script>

<template>
  <v-color-picker :model-value="value" mode="hex" hide-inputs width="280" elevation="0" @update:model-value="emit('picked', $event)" />
</template>
