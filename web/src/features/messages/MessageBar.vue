<!-- The message at the foot of the page. -->
<script setup lang="ts">
import { useMessages } from './useMessages'
import { t } from '../../words'

const { current } = useMessages()

function act(): void {
  current.message?.act?.run()
  current.open = false
}
</script>

<template>
  <v-snackbar :key="current.number" v-model="current.open" location="bottom start" :timeout="current.message?.kind === 'trouble' ? 15000 : 8000">
    <div class="message" :class="current.message?.kind" role="status">
      <span>{{ current.message?.text }}</span>
      <button v-if="current.message?.act" class="word" @click="act">{{ current.message.act.label }}</button>
      <button class="word" @click="current.open = false">{{ t('app.close') }}</button>
    </div>
  </v-snackbar>
</template>

<style scoped>
.message {
  display: flex;
  gap: 20px;
  align-items: baseline;
  max-width: 560px;
  font-size: 13px;
  line-height: 1.45;
}
.message .word {
  color: #fff;
  text-decoration-color: #fff;
}
.message.trouble span::before {
  content: 'Not done. ';
  font-weight: 650;
}
</style>
