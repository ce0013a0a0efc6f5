<script setup lang="ts">
// What is asked on after an answer: a few words are enough, they are understood together with it.
import { ref } from 'vue'
import { LONGEST, useAsk } from '../AskBar/useAsk'
import { Notice } from '../Notice'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry that is followed. */
  inquiry: string
}>()

const said = ref('')
const { ask, sending, problem } = useAsk()

async function send(): Promise<void> {
  if (await ask(said.value, null, { follows: props.inquiry })) said.value = ''
}
</script>

<template>
  <form class="max-w-[62ch]" @submit.prevent="send">
    <label for="ask-on" class="text-sm text-faint">{{ say('ask-on') }}</label>
    <div class="mt-1 flex items-stretch rounded-lg border border-line bg-sheet focus-within:border-sea">
      <input
        id="ask-on" v-model="said" :maxlength="LONGEST" autocomplete="off" enterkeyhint="send" :placeholder="say('ask-on-placeholder')"
        class="min-w-0 flex-1 rounded-l-lg bg-transparent px-3 py-2 outline-offset-0 placeholder:text-faint"
      />
      <button type="submit" :disabled="!!sending || !said.trim()" class="rounded-r-lg border-l border-line px-4 font-semibold text-sea disabled:text-faint">
        {{ sending ? say('asking') : say('ask-on-button') }}
      </button>
    </div>
    <Notice v-if="problem" class="mt-2" :title="problem.message" :hint="problem.hint" />
  </form>
</template>
