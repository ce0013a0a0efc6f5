<script setup lang="ts">
// An answer as a file, with what it stands on: the browser fetches and keeps it.
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { api } from '../../api/client'
import type { Wish } from '../ChartView'
import { say } from '../../shared/say'

defineProps<{
  /** The inquiry's id. */
  inquiry: string
  /** How its chart is drawn; null where there is none. */
  wish: Wish | null
  /** Whether there are more rows than these that may be asked for. */
  more?: boolean
}>()
defineEmits<{
  /** All rows are wanted. */
  whole: []
}>()

const FORMS = ['xlsx', 'csv', 'html', 'md', 'json'] as const
const PICTURES = ['png', 'svg'] as const
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton class="text-sea underline">{{ say('take-away') }}</MenuButton>
    <MenuItems class="fixed inset-x-4 bottom-4 z-20 rounded-lg sm:absolute sm:inset-x-auto sm:bottom-full sm:left-0 sm:mb-1 sm:w-64 border border-line bg-sheet py-1 text-ink shadow-lg">
      <MenuItem v-for="one in wish ? [...FORMS, ...PICTURES] : FORMS" :key="one" v-slot="{ active }">
        <a :href="api.fileOf(inquiry, one, { ...wish })" download class="flex justify-between gap-4 px-3 py-2" :class="active ? 'bg-wash' : ''">
          {{ say(`form-${one}`) }}<span class="text-faint">.{{ one }}</span>
        </a>
      </MenuItem>
      <MenuItem v-if="more" v-slot="{ active }">
        <button type="button" class="flex w-full justify-between gap-4 border-t border-line px-3 py-2 text-left" :class="active ? 'bg-wash' : ''" @click="$emit('whole')">
          {{ say('all-rows') }}<span class="text-faint">.csv</span>
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
