<script setup lang="ts">
// What a query does, read from it: a part on each line, the whole of it in sentences one click away, and the agreed
// measures that its figure rests on.
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
import type { Inquiry } from '../../api/types'
import { say } from '../../shared/say'

defineProps<{
  /** The answer. */
  answer: NonNullable<Inquiry['answer']>
}>()
</script>

<template>
  <section :aria-label="say('what-it-does')" class="max-w-[72ch]">
    <template v-if="answer.read_back">
      <p class="text-sm text-faint">{{ say('what-it-does-read') }}</p>
      <!-- None of an answer from before they were kept. -->
      <p v-if="!answer.lines.length" class="break-words">{{ answer.read_back }}</p>
      <template v-else>
        <dl class="mt-1 grid grid-cols-[minmax(4.5rem,max-content)_1fr] gap-x-4 gap-y-1">
          <template v-for="(line, index) in answer.lines" :key="index">
            <dt class="text-sm leading-6 text-faint">{{ line.label }}</dt>
            <dd class="min-w-0 break-words">{{ line.text }}</dd>
          </template>
        </dl>
        <Disclosure v-slot="{ open }">
          <DisclosureButton class="mt-2 text-sm text-sea underline">{{ open ? say('without-sentences') : say('in-sentences') }}</DisclosureButton>
          <DisclosurePanel class="mt-1 text-sm break-words text-faint">{{ answer.read_back }}</DisclosurePanel>
        </Disclosure>
      </template>
    </template>
    <p v-for="measure in answer.measures" :key="measure.name" class="mt-3">
      <span class="block text-sm text-faint">{{ say('agreed-measure', { version: measure.version }) }}<template v-if="measure.owner">{{ say('owned-by', { owner: measure.owner }) }}</template></span><strong>{{ measure.name }}</strong><template v-if="measure.text">: {{ measure.text }}</template>
    </p>
  </section>
</template>
