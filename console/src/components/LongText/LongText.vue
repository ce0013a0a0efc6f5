<script setup lang="ts">
// A text of any length: folded after a few lines, whole on demand.
import { computed, ref } from 'vue'

const props = defineProps<{
  /** The text. */
  text: string
}>()

const LONG = 320
const open = ref(false)
const long = computed(() => props.text.length > LONG)
</script>

<template>
  <div>
    <p class="break-words" :class="long && !open ? 'line-clamp-3' : ''">{{ text }}</p>
    <button v-if="long" type="button" class="text-sm text-sea underline" :aria-expanded="open" @click="open = !open">{{ open ? 'Show less' : 'Show all of it' }}</button>
  </div>
</template>
