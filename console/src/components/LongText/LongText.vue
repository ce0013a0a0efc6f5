<script setup lang="ts">
// A text of any length: folded after a few lines, whole on demand.
import { computed, ref } from 'vue'
import { litIn } from '../../shared/format'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The text. */
  text: string
  /** Words of it to light up. */
  lit?: string[]
}>()

const LONG = 320
const open = ref(false)
const parts = computed(() => litIn(props.text, props.lit ?? []))
const long = computed(() => props.text.length > LONG)
</script>

<template>
  <div>
    <p class="break-words" :class="long && !open ? 'line-clamp-3' : ''"><template v-for="(part, at) in parts" :key="at"><mark v-if="part.lit" class="rounded-sm bg-sea/15 text-inherit">{{ part.text }}</mark><template v-else>{{ part.text }}</template></template></p>
    <button v-if="long" type="button" class="text-sm text-sea underline" :aria-expanded="open" @click="open = !open">{{ open ? say('show-less') : say('show-all-of-it') }}</button>
  </div>
</template>
