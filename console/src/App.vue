<script setup lang="ts">
// The frame around every page: name, ways, ask field.
import { computed } from 'vue'
import { RouterLink, RouterView, useRoute } from 'vue-router'
import { AskBar } from './components/AskBar'
import { PersonMenu } from './components/PersonMenu'
import { session } from './shared/session'

const route = useRoute()
const inside = computed(() => session.me !== null && !route.meta.open)
</script>

<template>
  <a href="#page" class="sr-only focus:not-sr-only focus:absolute focus:z-20 focus:bg-sheet focus:p-3">Skip to the page</a>
  <header v-if="inside" class="sticky top-0 z-10 border-b border-line bg-paper/95 backdrop-blur">
    <div class="mx-auto flex max-w-[76rem] flex-wrap items-center gap-x-6 gap-y-2 px-4 py-3 sm:px-6">
      <RouterLink :to="{ name: 'ask' }" class="flex items-center gap-2 text-lg font-bold tracking-tight">
        <img src="/assets/mark.svg" alt="" class="size-7" />
        Harquel
      </RouterLink>
      <nav class="flex gap-4 text-sm" aria-label="Pages">
        <RouterLink :to="{ name: 'ask' }" class="py-1" exact-active-class="border-b-2 border-sea">Ask</RouterLink>
        <RouterLink :to="{ name: 'earlier' }" class="py-1" exact-active-class="border-b-2 border-sea">Earlier</RouterLink>
      </nav>
      <PersonMenu class="ml-auto md:order-last md:ml-0" />
      <AskBar class="w-full md:w-auto md:min-w-0 md:flex-1" />
    </div>
  </header>
  <main id="page" class="mx-auto max-w-[76rem] px-4 pb-24 sm:px-6">
    <RouterView :key="route.fullPath" />
  </main>
</template>
