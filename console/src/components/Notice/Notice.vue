<script setup lang="ts">
// Something went wrong: what, and what to do about it.
defineProps<{
  /** One sentence on what is wrong. */
  title: string
  /** What to do. */
  hint?: string
}>()
</script>

<template>
  <div role="alert" class="rounded-lg border border-signal/60 bg-sheet px-4 py-3">
    <p class="font-semibold text-signal">{{ title }}</p>
    <p v-if="hint" class="text-sm">{{ hint }}</p>
    <slot />
  </div>
</template>
