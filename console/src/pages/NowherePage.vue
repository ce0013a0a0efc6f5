<script setup lang="ts">
// A path that leads nowhere.
import { RouterLink } from 'vue-router'
</script>

<template>
  <div class="pt-16">
    <h1 class="text-2xl font-bold">There is nothing here.</h1>
    <p class="mt-2"><RouterLink :to="{ name: 'ask' }" class="text-sea underline">Ask a question</RouterLink> or look at <RouterLink :to="{ name: 'earlier' }" class="text-sea underline">earlier ones</RouterLink>.</p>
  </div>
</template>
