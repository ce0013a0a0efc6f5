<script setup lang="ts">
// One click makes an example of an answer that is right.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../../api/client'
import type { Example } from '../../api/types'
import { useDoing } from '../../shared/useDoing'
import { say, sayOf } from '../../shared/say'

const props = defineProps<{
  /** The source that was asked. */
  source: string
  /** The inquiry's id. */
  inquiry: string
}>()

const made = ref<Example | null>(null)
const { busy: sending, problem, doing } = useDoing()

async function keep(): Promise<void> {
  await doing('keep', async () => (made.value = await api.addExample(props.source, { inquiry: props.inquiry })))
}
</script>

<template>
  <p class="text-sm" aria-live="polite">
    <template v-if="made">
      {{ say('kept-example', { state: sayOf('example', made.state) }) }}
      <RouterLink :to="{ name: 'examples', params: { name: source } }" class="text-sea underline">{{ say('see-all') }}</RouterLink>
    </template>
    <template v-else>
      <button type="button" :disabled="!!sending" class="text-sea underline disabled:opacity-60" @click="keep">
        {{ sending ? say('keeping') : say('keep-example') }}
      </button>
      <span v-if="problem" class="ml-2 text-signal">{{ problem.message }} {{ problem.hint }}</span>
    </template>
  </p>
</template>
