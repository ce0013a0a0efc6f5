<script setup lang="ts">
// What we ask back, with the readings to choose from; a choice is a new inquiry that follows this one.
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, Problem } from '../../api/client'
import type { Inquiry } from '../../api/types'

const props = defineProps<{
  /** The inquiry that asked back. */
  inquiry: Inquiry
}>()

const router = useRouter()
const chosen = ref('')
const problem = ref<Problem | null>(null)

async function choose(choice: string): Promise<void> {
  chosen.value = choice
  problem.value = null
  try {
    const made = await api.choose(props.inquiry.id, choice)
    await router.push({ name: 'leaf', params: { id: made.id } })
  } catch (error) {
    problem.value = error as Problem
  } finally {
    chosen.value = ''
  }
}
</script>

<template>
  <div class="w-full max-w-[62ch]">
    <h1 class="text-2xl leading-snug break-words">{{ inquiry.clarify!.question }}</h1>
    <ul class="mt-4 space-y-2">
      <li v-for="choice in inquiry.clarify!.choices" :key="choice.id">
        <button
          type="button"
          class="w-full rounded-lg border border-line bg-sheet px-4 py-3 text-left break-words hover:border-sea disabled:opacity-60"
          :disabled="!!chosen"
          @click="choose(choice.id)"
        >
          {{ choice.label }}<span v-if="chosen === choice.id" class="text-faint"> · asking …</span>
        </button>
      </li>
    </ul>
    <p class="mt-3 text-sm text-faint">None of these? Put the question in other words above.</p>
    <p v-if="problem" class="mt-3 text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</p>
  </div>
</template>
