<script setup lang="ts">
// The frame around every page: name, ways, ask field.
import { computed, ref } from 'vue'
import { RouterLink, RouterView, useRoute, useRouter } from 'vue-router'
import { Problem } from './api/client'
import { AskBar } from './components/AskBar'
import { Notice } from './components/Notice'
import { PersonMenu } from './components/PersonMenu'
import { session } from './shared/session'
import { say } from './shared/say'

const route = useRoute()
const router = useRouter()
const opening = ref(true)
const failed = ref<Problem | null>(null)

// Without this a first page that cannot be loaded would stay blank.
router.onError((error: unknown) => {
  failed.value = error instanceof Problem ? error : new Problem(0, say('page-not-loaded'), say('page-not-loaded-hint'))
})
router.isReady().then(() => (opening.value = false), () => (opening.value = false))
router.afterEach((_to, _from, failure) => {
  if (!failure) failed.value = null
})

function again(): void {
  location.reload()
}

const inside = computed(() => session.me !== null && !route.meta.open)
</script>

<template>
  <a href="#page" class="sr-only focus:not-sr-only focus:absolute focus:z-20 focus:bg-sheet focus:p-3">{{ say('skip') }}</a>
  <header v-if="inside" class="sticky top-0 z-10 border-b border-line bg-paper/95 backdrop-blur">
    <div class="mx-auto flex max-w-[76rem] flex-wrap items-center gap-x-4 gap-y-2 px-4 py-3 sm:gap-x-6 sm:px-6">
      <RouterLink :to="{ name: 'ask' }" class="flex items-center gap-2 text-lg font-bold tracking-tight">
        <img src="/assets/mark.svg" alt="" class="size-7" />
        <span class="max-sm:sr-only">Harquel</span>
      </RouterLink>
      <nav class="flex gap-4 text-sm" :aria-label="say('pages')">
        <RouterLink :to="{ name: 'ask' }" class="py-1" exact-active-class="border-b-2 border-sea">{{ say('ask') }}</RouterLink>
        <RouterLink :to="{ name: 'earlier' }" class="py-1" exact-active-class="border-b-2 border-sea">{{ say('earlier') }}</RouterLink>
        <template v-if="session.me?.scopes.includes('steward')">
          <RouterLink :to="{ name: 'sources' }" class="py-1" active-class="border-b-2 border-sea">{{ say('sources') }}</RouterLink>
          <RouterLink :to="{ name: 'models' }" class="py-1" active-class="border-b-2 border-sea">{{ say('models') }}</RouterLink>
        </template>
      </nav>
      <PersonMenu class="ml-auto md:order-last md:ml-0" />
      <AskBar class="w-full md:w-auto md:min-w-0 md:flex-1" />
    </div>
  </header>
  <!-- Out of the flow: what comes after it stands where it will stay. -->
  <p v-if="opening && !failed" class="beats fixed inset-x-0 top-28 mx-auto max-w-[76rem] px-4 text-faint sm:px-6" role="status">{{ say('opening') }}</p>
  <main v-else id="page" class="mx-auto max-w-[76rem] px-4 pb-24 sm:px-6">
    <Notice v-if="failed" class="mt-10" :title="failed.message" :hint="failed.hint">
      <button type="button" class="mt-2 text-sea underline" @click="again">{{ say('try-again') }}</button>
    </Notice>
    <RouterView v-else :key="route.name === 'catalog' ? `catalog ${route.params.name}` : route.fullPath" />
  </main>
</template>
