<script setup lang="ts">
// Which source the question goes to.
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/vue'
import { computed } from 'vue'
import { ANY, session } from '../../shared/session'
import { say } from '../../shared/say'

const chosen = computed({ get: () => session.chosen, set: (name: string) => session.choose(name) })
const named = computed(() => (chosen.value === ANY ? say('any-source') : chosen.value))
</script>

<template>
  <Listbox v-model="chosen" as="div" class="relative border-l border-line">
    <ListboxButton class="flex h-full min-h-10 w-full items-center gap-2 px-3 text-sm" :aria-label="say('source-of', { name: named })">
      <span class="truncate">{{ named }}</span>
      <svg viewBox="0 0 12 12" class="ml-auto size-3 shrink-0 text-faint" aria-hidden="true">
        <path d="M2 4l4 4 4-4" fill="none" stroke="currentColor" stroke-width="1.6" />
      </svg>
    </ListboxButton>
    <ListboxOptions class="absolute right-0 z-20 mt-1 w-80 max-w-[90vw] rounded-lg border border-line bg-sheet py-1 shadow-lg">
      <ListboxOption v-slot="{ active, selected }" :value="ANY">
        <div class="border-b border-line px-3 py-2" :class="active ? 'bg-wash' : ''">
          <div class="text-sm" :class="selected ? 'font-bold' : ''">{{ say('any-source') }}</div>
          <div class="text-xs text-faint">{{ say('any-source-what') }}</div>
        </div>
      </ListboxOption>
      <ListboxOption v-for="source in session.sources.filter((s) => s.enabled)" :key="source.name" v-slot="{ active, selected }" :value="source.name">
        <div class="px-3 py-2" :class="active ? 'bg-wash' : ''">
          <div class="text-sm" :class="selected ? 'font-bold' : ''">{{ source.name }}</div>
          <div class="text-xs text-faint">{{ source.title || source.engine }}</div>
        </div>
      </ListboxOption>
    </ListboxOptions>
  </Listbox>
</template>
