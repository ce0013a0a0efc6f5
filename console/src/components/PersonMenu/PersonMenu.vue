<script setup lang="ts">
// Who is signed in, the look, and the way out.
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { computed } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { session } from '../../shared/session'
import { chooseTheme, theme, type Theme } from '../../shared/theme'
import { chooseLanguage, language, LANGUAGES, say } from '../../shared/say'

const router = useRouter()
const LOOKS: Theme[] = ['system', 'light', 'dark']
const PAGES = ['casebooks', 'watches', 'open-links', 'usage', 'chats'] as const

// A phone has no room for the whole name beside the pages.
const initials = computed(() => (session.me?.person ?? '').split(/\s+/).map((word) => word[0]).join('').slice(0, 3).toUpperCase())

function go(event: MouseEvent, close: () => void, navigate: (event: MouseEvent) => unknown): void {
  close()
  navigate(event)
}

async function leave(): Promise<void> {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <Menu as="div" class="relative text-sm">
    <MenuButton class="rounded-lg border border-line px-3 py-2">
      <span aria-hidden="true" class="sm:hidden">{{ initials }}</span>
      <span class="sr-only sm:not-sr-only">{{ session.me?.person }}</span>
    </MenuButton>
    <MenuItems class="absolute right-0 z-20 mt-1 w-56 rounded-lg border border-line bg-sheet py-1 shadow-lg">
      <p class="px-3 py-2 text-faint sm:hidden">{{ session.me?.person }}</p>
      <MenuItem v-for="look in LOOKS" :key="look" v-slot="{ active }">
        <button
          type="button"
          class="flex w-full justify-between px-3 py-2 text-left"
          :class="active ? 'bg-wash' : ''"
          @click="chooseTheme(look)"
        >
          {{ say(`look-${look}`) }}<span v-if="theme === look" :aria-label="say('chosen')">✓</span>
        </button>
      </MenuItem>
      <MenuItem v-for="(spoken, index) in LANGUAGES" :key="spoken.value" v-slot="{ active }">
        <button type="button" :lang="spoken.value" class="flex w-full justify-between px-3 py-2 text-left" :class="[active ? 'bg-wash' : '', index ? '' : 'border-t border-line']" @click="chooseLanguage(spoken.value)">
          {{ spoken.label }}<span v-if="language === spoken.value" :aria-label="say('chosen')">✓</span>
        </button>
      </MenuItem>
      <!-- A link prevents what a click would do by itself; then the menu would not close. -->
      <RouterLink v-for="(page, index) in PAGES" :key="page" v-slot="{ href, navigate }" :to="{ name: page }" custom>
        <MenuItem v-slot="{ active, close }">
          <a :href="href" class="block w-full px-3 py-2 text-left" :class="[active ? 'bg-wash' : '', index ? '' : 'border-t border-line']" @click="go($event, close, navigate)">{{ say(page) }}</a>
        </MenuItem>
      </RouterLink>
      <MenuItem v-slot="{ active }">
        <button type="button" class="w-full border-t border-line px-3 py-2 text-left" :class="active ? 'bg-wash' : ''" @click="leave">
          {{ say('sign-out') }}
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
