<script setup lang="ts">
// One click makes an example of an answer that is right.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, Problem } from '../../api/client'
import type { Example } from '../../api/types'

const props = defineProps<{
  /** The source that was asked. */
  source: string
  /** The inquiry's id. */
  inquiry: string
}>()

const sending = ref(false)
const made = ref<Example | null>(null)
const problem = ref<Problem | null>(null)

async function keep(): Promise<void> {
  sending.value = true
  problem.value = null
  try {
    made.value = await api.addExample(props.source, { inquiry: props.inquiry })
  } catch (error) {
    problem.value = error as Problem
  } finally {
    sending.value = false
  }
}
</script>

<template>
  <p class="text-sm" aria-live="polite">
    <template v-if="made">
      Kept as an example, {{ made.state }}.
      <RouterLink :to="{ name: 'examples', params: { name: source } }" class="text-sea underline">See all</RouterLink>
    </template>
    <template v-else>
      <button type="button" :disabled="sending" class="text-sea underline disabled:opacity-60" @click="keep">
        {{ sending ? 'Keeping …' : 'Right? Keep it as an example' }}
      </button>
      <span v-if="problem" class="ml-2 text-signal">{{ problem.message }} {{ problem.hint }}</span>
    </template>
  </p>
</template>
