<script setup lang="ts">
// What was said after an answer, beside the question that it was taken for; that is put right here.
import { nextTick, ref } from 'vue'
import type { Inquiry } from '../../api/types'
import { LONGEST, useAsk } from '../AskBar/useAsk'
import { Notice } from '../Notice'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry; it follows another one. */
  inquiry: Inquiry
  /** Whether whoever looks may ask. */
  mayAsk: boolean
}>()

const meant = ref('')
const open = ref(false)
const field = ref<HTMLTextAreaElement | null>(null)
const { ask, sending, problem } = useAsk()

async function begin(): Promise<void> {
  meant.value = props.inquiry.standalone_question ?? props.inquiry.question
  open.value = true
  await nextTick()
  field.value?.focus()
}

async function send(): Promise<void> {
  await ask(meant.value, props.inquiry.source, { follows: props.inquiry.follows!, complete: true })
}
</script>

<template>
  <div class="mt-1 max-w-[62ch] text-sm text-faint">
    <p>
      <span class="break-words">{{ say('you-said', { text: inquiry.question }) }}</span>
      <template v-if="mayAsk && !open"> · <button type="button" class="text-sea underline" @click="begin">{{ say('meant-otherwise-edit') }}</button></template>
    </p>
    <form v-if="open" class="mt-2" @submit.prevent="send">
      <label for="meant" class="sr-only">{{ say('meant-so') }}</label>
      <textarea id="meant" ref="field" v-model="meant" rows="2" :maxlength="LONGEST" class="w-full rounded-lg border border-line bg-sheet px-3 py-2 text-base text-ink focus:border-sea" @keydown.enter.exact.prevent="send" @keydown.esc="open = false" />
      <p class="mt-1 flex gap-4">
        <button type="submit" :disabled="!!sending || !meant.trim()" class="rounded-lg bg-sea px-4 py-1.5 font-semibold text-onsea disabled:opacity-60">{{ sending ? say('asking') : say('ask-so') }}</button>
        <button type="button" class="text-sea underline" @click="open = false">{{ say('leave-it') }}</button>
      </p>
      <Notice v-if="problem" class="mt-2" :title="problem.message" :hint="problem.hint" />
    </form>
  </div>
</template>
