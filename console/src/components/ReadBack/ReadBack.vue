<script setup lang="ts">
// What a query does, read from it: a part on each line, and the whole of it in sentences one click away.
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import type { ReadLine } from '../../api/types'

defineProps<{
  /** The parts; none of an answer from before they were kept. */
  lines: ReadLine[]
  /** The same in sentences. */
  whole: string
}>()
</script>

<template>
  <section aria-label="What the query does" class="max-w-[72ch]">
    <p class="text-sm text-faint">What the query does, read from it</p>
    <p v-if="!lines.length" class="break-words">{{ whole }}</p>
    <template v-else>
      <dl class="mt-1 grid grid-cols-[minmax(4.5rem,max-content)_1fr] gap-x-4 gap-y-1">
        <template v-for="(line, index) in lines" :key="index">
          <dt class="text-sm leading-6 text-faint">{{ line.label }}</dt>
          <dd class="min-w-0 break-words">{{ line.text }}</dd>
        </template>
      </dl>
      <Disclosure v-slot="{ open }">
        <DisclosureButton class="mt-2 text-sm text-sea underline">{{ open ? 'Without the sentences' : 'In sentences' }}</DisclosureButton>
        <DisclosurePanel class="mt-1 text-sm break-words text-faint">{{ whole }}</DisclosurePanel>
      </Disclosure>
    </template>
  </section>
</template>
