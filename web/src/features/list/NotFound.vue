<script setup lang="ts">
import { t } from '../../words'
</script>

<template>
  <main class="lost">
    <h1>{{ t('list.thereIsNoSuchPage') }}</h1>
    <p>{{ t('list.theAddressMayBeCutOff') }} <router-link class="word" to="/">{{ t('list.allEffects') }}</router-link></p>
  </main>
</template>

<style scoped>
.lost {
  padding: 48px 28px;
}
</style>
