<script setup lang="ts">
// Who is signed in, the look, and the way out.
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { useRouter } from 'vue-router'
import { session } from '../../shared/session'
import { chooseTheme, theme, type Theme } from '../../shared/theme'

const router = useRouter()
const looks: { value: Theme; label: string }[] = [
  { value: 'system', label: 'Look: as the system' },
  { value: 'light', label: 'Look: light' },
  { value: 'dark', label: 'Look: dark' },
]

async function leave(): Promise<void> {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <Menu as="div" class="relative text-sm">
    <MenuButton class="rounded-lg border border-line px-3 py-2">{{ session.me?.person }}</MenuButton>
    <MenuItems class="absolute right-0 z-20 mt-1 w-56 rounded-lg border border-line bg-sheet py-1 shadow-lg">
      <MenuItem v-for="look in looks" :key="look.value" v-slot="{ active }">
        <button
          type="button"
          class="flex w-full justify-between px-3 py-2 text-left"
          :class="active ? 'bg-wash' : ''"
          @click="chooseTheme(look.value)"
        >
          {{ look.label }}<span v-if="theme === look.value" aria-label="chosen">✓</span>
        </button>
      </MenuItem>
      <MenuItem v-slot="{ active }">
        <button type="button" class="w-full border-t border-line px-3 py-2 text-left" :class="active ? 'bg-wash' : ''" @click="leave">
          Sign out
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
