<template>
  <main class="lost">
    <h1>There is no such page</h1>
    <p>The address may be cut off. <router-link class="word" to="/">All effects</router-link></p>
  </main>
</template>

<style scoped>
.lost {
  padding: 48px 28px;
}
</style>
