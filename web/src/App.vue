<script setup lang="ts">
import { defineAsyncComponent } from 'vue'

// Once the page stands: nobody is told anything before, and where the server goes away the words for that are there.
const MessageBar = defineAsyncComponent(() => import('./features/messages/MessageBar.vue'))
</script>

<template>
  <v-app>
    <router-view v-slot="{ Component, route }">
      <component :is="Component" :key="route.fullPath.split('?')[0]" />
    </router-view>
    <MessageBar />
  </v-app>
</template>
