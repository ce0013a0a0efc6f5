<script setup lang="ts">
// Two drafts of one question beside each other: who wrote them, what they took, what they say, what came of them.
import { computed, onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../../api/client'
import type { Inquiry } from '../../api/types'
import { milliseconds } from '../../shared/format'
import { useDoing } from '../../shared/useDoing'
import { Notice } from '../Notice'
import { ResultGrid } from '../ResultGrid'
import { SqlBlock } from '../SqlBlock'
import { TrustMark } from '../TrustMark'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry that was drafted again. */
  inquiry: Inquiry
}>()

const before = ref<Inquiry | null>(null)
const { problem, doing } = useDoing()
const both = computed(() => (before.value ? [before.value, props.inquiry] : []))

const said = computed(() => props.inquiry.redraft!.said.replace(/([^.!?])$/, '$1.'))

function draftOf(inquiry: Inquiry) {
  return inquiry.attempts.findLast((attempt) => attempt.draft)?.draft ?? null
}

onMounted(() => doing('load', async () => (before.value = await api.inquiry(props.inquiry.redraft!.inquiry))))
</script>

<template>
  <section aria-labelledby="beside" class="mt-10">
    <h2 id="beside" class="mb-3 border-b border-line pb-1 text-sm font-semibold text-faint">{{ say('side-by-side') }}</h2>
    <p v-if="inquiry.redraft!.said" class="mb-4"><strong :class="inquiry.redraft!.same ? '' : 'text-signal'">{{ say(inquiry.redraft!.same ? 'both-agree' : 'both-differ') }}</strong> {{ said }}</p>
    <p v-else class="mb-4 text-faint">{{ say('both-not-compared') }}</p>
    <Notice v-if="problem" :title="problem.message" :hint="problem.hint" />
    <div class="grid min-h-40 items-start gap-x-6 gap-y-8 lg:grid-cols-2">
      <div v-for="one in both" :key="one.id" class="min-w-0">
        <h3 class="font-semibold break-words">
          <RouterLink v-if="one !== inquiry" :to="{ name: 'leaf', params: { id: one.id } }" class="text-sea underline">{{ say('answered-before') }}</RouterLink>
          <template v-else>{{ say('drafted-again') }}</template>
        </h3>
        <dl class="mt-1 mb-3 grid grid-cols-[auto_1fr] gap-x-4 text-sm">
          <dt class="text-faint">{{ say('by-model') }}</dt><dd class="min-w-0 break-words">{{ draftOf(one)?.model ?? '–' }}</dd>
          <dt class="text-faint">{{ say('template') }}</dt><dd class="font-mono text-xs leading-5">{{ draftOf(one)?.template || '–' }}</dd>
          <dt class="text-faint">{{ say('drafts') }}</dt><dd>{{ one.attempts.length }}</dd>
          <dt class="text-faint">{{ say('taken') }}</dt><dd>{{ say('so-many-tokens', { n: (one.usage.prompt_tokens ?? 0) + (one.usage.completion_tokens ?? 0) }) }} · {{ milliseconds(one.timings.model_ms ?? 0) }}</dd>
          <dt class="text-faint">{{ say('ended') }}</dt><dd><TrustMark :line="one" /></dd>
        </dl>
        <SqlBlock v-if="draftOf(one)" :sql="draftOf(one)!.sql" />
        <ResultGrid v-if="one.answer" :table="one.answer.table" :first="6" class="mt-3 min-w-0" />
        <p v-else-if="one.problem" class="mt-3">{{ one.problem.title }}</p>
      </div>
    </div>
  </section>
</template>
