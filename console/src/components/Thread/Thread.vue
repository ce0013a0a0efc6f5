<script setup lang="ts">
// What was asked one after the other, the newest below, each with its mark; on a phone folded above the leaf.
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import { RouterLink } from 'vue-router'
import type { InquiryLine } from '../../api/types'
import { TrustMark } from '../TrustMark'
import { say } from '../../shared/say'

defineProps<{
  /** Those that follow one another, the oldest first. */
  lines: InquiryLine[]
  /** The id of the one that is looked at. */
  here: string
}>()
</script>

<template>
  <nav :aria-label="say('thread')">
    <Disclosure v-slot="{ open }">
      <DisclosureButton class="flex w-full items-center justify-between rounded-lg border border-line bg-sheet px-3 py-2 text-sm lg:hidden">
        {{ say('thread-at', { n: lines.findIndex((line) => line.id === here) + 1, of: lines.length }) }}
        <svg viewBox="0 0 12 12" class="size-3 text-faint" :class="open ? 'rotate-180' : ''" aria-hidden="true"><path d="M2 4l4 4 4-4" fill="none" stroke="currentColor" stroke-width="1.6" /></svg>
      </DisclosureButton>
      <DisclosurePanel static :class="open ? 'max-lg:mt-2' : 'max-lg:hidden'">
        <p class="mb-2 text-sm font-semibold text-faint max-lg:sr-only">{{ say('thread') }}</p>
        <ol class="border-l-2 border-line">
          <li v-for="line in lines" :key="line.id">
            <RouterLink
              :to="{ name: 'leaf', params: { id: line.id } }" :aria-current="line.id === here ? 'page' : undefined"
              class="-ml-0.5 block border-l-2 py-2 pl-3 text-sm hover:border-sea" :class="line.id === here ? 'border-sea font-semibold' : 'border-transparent'"
            >
              <span class="line-clamp-3 break-words">{{ line.question }}</span>
              <span class="mt-0.5 block font-normal"><TrustMark :line="line" /></span>
            </RouterLink>
          </li>
        </ol>
      </DisclosurePanel>
    </Disclosure>
  </nav>
</template>
