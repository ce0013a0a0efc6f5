<script setup lang="ts">
// Of an answer that was meant otherwise than the one before: one click writes that into the notes, for everybody.
import { onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../../api/client'
import type { DocumentShape, Lasting } from '../../api/types'
import { useDoing } from '../../shared/useDoing'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The source that was asked. */
  source: string
  /** The inquiry's id. */
  inquiry: string
  /** The inquiry that it corrects. */
  follows: string
  /** What was chosen there. */
  choice: string
}>()

const lasting = ref<Lasting | null>(null)
const made = ref<DocumentShape | null>(null)
const { busy: sending, problem, doing } = useDoing()

onMounted(() => doing('look', async () => {
  const earlier = await api.inquiry(props.follows)
  lasting.value = earlier.second_opinion?.instead.find((offer) => offer.id === props.choice)?.lasting ?? null
}))

async function keep(): Promise<void> {
  await doing('keep', async () => (made.value = await api.keep(props.inquiry)))
}
</script>

<template>
  <!-- Its place is kept while it is looked up whether there is something to write. -->
  <p class="min-h-5 text-sm" aria-live="polite">
    <template v-if="made && lasting">
      {{ say('written-notes', { number: made.number }) }}
      <RouterLink :to="{ name: 'catalog', params: { name: source, table: lasting.table } }" class="text-sea underline">{{ say('see-them') }}</RouterLink>
    </template>
    <template v-else-if="lasting">
      <button type="button" :disabled="!!sending" class="text-left text-sea underline disabled:opacity-60" @click="keep">
        <template v-if="sending === 'keep'">{{ say('writing') }}</template>
        <template v-else-if="lasting.word">{{ say('always-word', { word: lasting.word, code: lasting.code, table: lasting.table, column: lasting.column }) }}</template>
        <template v-else>{{ say('always-dated', { table: lasting.table, column: lasting.column }) }}</template>
      </button>
      <span v-if="problem" class="ml-2 text-signal">{{ problem.message }} {{ problem.hint }}</span>
    </template>
  </p>
</template>
