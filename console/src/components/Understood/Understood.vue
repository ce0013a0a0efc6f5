<script setup lang="ts">
// How the question was understood, part by part; pointing at one lights up the words that it stands for.
import type { UnderstoodPart } from '../../api/types'

defineProps<{
  /** The parts, in order. */
  parts: UnderstoodPart[]
}>()
const emit = defineEmits<{
  /** The words of the question to light up; none: none of them. */
  light: [words: string[]]
}>()
</script>

<template>
  <div class="max-w-[72ch] text-sm">
    <span id="understood" class="text-faint">Understood as</span>
    <ul aria-labelledby="understood" class="mt-1 flex flex-wrap gap-x-1 gap-y-1">
      <li v-for="(part, at) in parts" :key="at" class="min-w-0">
        <span
          v-if="part.words.length" tabindex="0" :aria-label="`${part.text}, for “${part.words.join(' … ')}”`"
          class="inline-block max-w-full cursor-default rounded border border-line bg-sheet px-2 py-0.5 break-words hover:border-sea focus:border-sea"
          @mouseenter="emit('light', part.words)" @mouseleave="emit('light', [])" @focus="emit('light', part.words)" @blur="emit('light', [])"
        >{{ part.text }}</span>
        <span v-else class="inline-block max-w-full rounded border border-dashed border-line px-2 py-0.5 break-words text-faint">{{ part.text }}<template v-if="part.assumed"> (assumed)</template></span>
      </li>
    </ul>
  </div>
</template>
