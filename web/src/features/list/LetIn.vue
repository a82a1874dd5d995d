<!-- Who was let in with the key, where the application is bound to a network; each may be asked to bring it again. -->
<script setup lang="ts">
import { onMounted, shallowRef } from 'vue'
import { api } from '../../api/client'
import type { Sessions } from '../../api/types'
import { useMessages } from '../messages/useMessages'
import { t } from '../../words'

const { complain } = useMessages()
const known = shallowRef<Sessions | null>(null)
const since = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })
const refresh = async (): Promise<void> => void (known.value = await api.sessions().catch(() => null))
onMounted(refresh)

async function end(name: string): Promise<void> {
  try {
    await api.endSession(name)
    if (name === 'all' || known.value?.sessions.find((one) => one.name === name)?.own) location.reload()
    else await refresh()
  } catch (error) {
    complain(error)
  }
}
</script>

<template>
  <v-menu v-if="known?.keyed" :close-on-content-click="false" location="bottom end" @update:model-value="refresh">
    <template #activator="{ props: activator }"><button v-bind="activator" class="word">{{ t('list.letIn', { count: known.sessions.length }) }}</button></template>
    <section class="sheet in" :aria-label="t('list.whoWasLetIn')">
      <p v-for="one in known.sessions" :key="one.name">
        <span class="agent">{{ one.agent || t('list.unknownProgram') }}</span>
        <span class="second">{{ since.format(new Date(one.since)) }}</span>
        <b v-if="one.own">{{ t('list.you') }}</b>
        <button class="word" @click="end(one.name)">{{ t('list.end') }}</button>
      </p>
      <button class="word" @click="end('all')">{{ t('list.endAll') }}</button>
    </section>
  </v-menu>
</template>

<style scoped>
.in {
  width: 440px;
  max-height: 60vh;
  overflow: auto;
  padding: 12px 16px;
}
p {
  display: flex;
  gap: 14px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}
.agent {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.in > .word {
  margin-top: 10px;
}
</style>
