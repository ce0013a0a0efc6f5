<script setup lang="ts">
// The ask field of every page: question, source, button. "/" puts the cursor here.
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { session } from '../../shared/session'
import { Notice } from '../Notice'
import SourceChoice from './SourceChoice.vue'
import { LONGEST, useAsk } from './useAsk'
import { say } from '../../shared/say'

const question = ref('')
const route = useRoute()
const field = ref<HTMLInputElement | null>(null)
const { ask, sending, problem } = useAsk()

async function send(): Promise<void> {
  if (await ask(question.value)) question.value = ''
}

function focusOnSlash(event: KeyboardEvent): void {
  const typing = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)
  if (event.key === '/' && !typing && !event.ctrlKey && !event.metaKey) {
    event.preventDefault()
    field.value?.focus()
  }
}

function begin(): void {
  // On a phone the keyboard would cover the page.
  if (route.name === 'ask' && matchMedia('(pointer: fine)').matches) field.value?.focus({ preventScroll: true })
}

onMounted(() => {
  addEventListener('keydown', focusOnSlash)
  begin()
})
// Whoever comes back signed in sees this field before the first way is known.
watch(() => route.name, begin, { flush: 'post' })
onBeforeUnmount(() => removeEventListener('keydown', focusOnSlash))
</script>

<template>
  <form role="search" @submit.prevent="send">
    <div class="flex items-stretch rounded-lg border border-line bg-sheet focus-within:border-sea">
      <label for="question" class="sr-only">{{ say('your-question') }}</label>
      <input
        id="question"
        ref="field"
        v-model="question"
        :maxlength="LONGEST"
        autocomplete="off"
        enterkeyhint="send"
        :placeholder="say('ask-placeholder')"
        class="min-w-0 flex-1 rounded-l-lg bg-transparent px-3 py-2 outline-offset-0 placeholder:text-faint"
      />
      <SourceChoice v-if="session.sources.length > 1" class="max-sm:hidden" />
      <button
        type="submit"
        :disabled="!!sending || !question.trim()"
        class="rounded-r-lg bg-sea px-5 font-semibold text-onsea disabled:opacity-60"
      >
        {{ sending ? say('asking') : say('ask') }}
      </button>
    </div>
    <SourceChoice v-if="session.sources.length > 1" class="mt-2 rounded-lg border border-line bg-sheet sm:hidden" />
    <Notice v-if="problem" class="mt-2" :title="problem.message" :hint="problem.hint" />
  </form>
</template>
