<script setup lang="ts">
// A statement that waits: why, by which line of the policy, and the decision for those who may make it.
import { computed, ref } from 'vue'
import { api } from '../../api/client'
import type { Inquiry } from '../../api/types'
import { session } from '../../shared/session'
import { SqlBlock } from '../SqlBlock'
import { useDoing } from '../../shared/useDoing'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry that is held. */
  inquiry: Inquiry
}>()
const emit = defineEmits<{
  /** It goes on, or has ended. */
  decided: []
}>()

const note = ref('')
const { busy: sending, problem, doing } = useDoing()
const statement = computed(() => props.inquiry.attempts.at(-1)?.rewritten_sql ?? '')
const mine = computed(() => session.me?.person === props.inquiry.asked_by)
const may = computed(() => {
  const scopes = session.me?.scopes ?? []
  return scopes.includes('release') && (!mine.value || scopes.includes('admin'))
})

async function decide(approve: boolean): Promise<void> {
  const decided = await doing(approve ? 'release' : 'turn down', () => api.release(props.inquiry.id, approve, note.value.trim()))
  if (decided) emit('decided')
}
</script>

<template>
  <div class="max-w-[62ch]">
    <h1 class="text-2xl leading-snug">{{ say('waits') }}</h1>
    <p class="mt-2">{{ inquiry.hold?.reason }}</p>
    <p class="mt-1 text-sm text-faint"><i18n path="held-by-line" tag="span"><template #line><code class="font-mono">{{ inquiry.hold?.policy_line }}</code></template></i18n></p>
    <SqlBlock v-if="statement" :sql="statement" class="mt-4" />
    <form v-if="may" class="mt-4 space-y-3" @submit.prevent="decide(true)">
      <label class="block text-sm">
        <span class="text-faint">{{ say('a-word-why', { person: inquiry.asked_by }) }}</span>
        <input v-model="note" type="text" maxlength="1000" class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2" />
      </label>
      <div class="flex flex-wrap gap-3">
        <button type="submit" :disabled="!!sending" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60">
          {{ sending === 'release' ? say('releasing') : say('release') }}
        </button>
        <button type="button" :disabled="!!sending" class="rounded-lg border border-line bg-sheet px-4 py-2 disabled:opacity-60" @click="decide(false)">
          {{ sending === 'turn down' ? say('turning-down') : say('turn-down') }}
        </button>
      </div>
    </form>
    <p v-else class="mt-4 text-sm text-faint">
      {{ say(mine ? 'somebody-else-decides' : 'somebody-decides') }}
    </p>
    <p v-if="problem" class="mt-3 text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</p>
  </div>
</template>
