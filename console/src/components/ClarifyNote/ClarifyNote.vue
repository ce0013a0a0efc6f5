<script setup lang="ts">
// What we ask back, with the readings to choose from; a choice is a new inquiry that follows this one.
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import type { Inquiry } from '../../api/types'
import { useDoing } from '../../shared/useDoing'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry that asked back. */
  inquiry: Inquiry
}>()

const router = useRouter()
const { busy: chosen, problem, doing } = useDoing()

async function choose(choice: string): Promise<void> {
  await doing(choice, async () => {
    const made = await api.choose(props.inquiry.id, choice)
    await router.push({ name: 'leaf', params: { id: made.id } })
  })
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
          {{ choice.label }}<span v-if="chosen === choice.id" class="text-faint"> · {{ say('asking-small') }}</span>
        </button>
      </li>
    </ul>
    <p v-if="inquiry.clarify!.choices.length" class="mt-3 text-sm text-faint">{{ say('none-of-these') }}</p>
    <p v-if="problem" class="mt-3 text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</p>
  </div>
</template>
