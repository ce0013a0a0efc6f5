<script setup lang="ts">
// An answer as it is shown to somebody who need not be the one who asked; where it is not, the question to ask oneself.
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { ShownAnswer } from '../../api/types'
import { useAsk } from '../AskBar/useAsk'
import { heightOf } from '../ChartView/height'
import { ResultGrid } from '../ResultGrid'
import { SqlBlock } from '../SqlBlock'
import { TrustMark } from '../TrustMark'
import { instant } from '../../shared/format'
import { say } from '../../shared/say'
import { session } from '../../shared/session'

const props = withDefaults(
  defineProps<{
    answer: ShownAnswer
    /** What of it. */
    shows?: ('answer' | 'chart' | 'table')[]
    /** By what a text knows it; empty: none does. */
    name?: string
    /** Where its picture is; empty: there is none here. */
    picture?: string
    /** How many rows at first. */
    first?: number
  }>(),
  { shows: () => ['answer', 'chart', 'table'], name: '', picture: '', first: 8 },
)

const { ask, sending, problem } = useAsk()
const fits = ref(true)
const there = computed(() => props.answer.state === 'shown')
const chart = computed(() => (props.picture && props.shows.includes('chart') && props.answer.chart && props.answer.table?.rows.length ? props.answer.chart : null))
// A table of one value would say the sentence once more.
const table = computed(() => {
  const found = props.answer.table
  const said = props.shows.includes('answer') && found?.row_count === 1 && found.columns.length === 1
  return found && props.shows.includes('table') && !said ? found : null
})
const mayAsk = computed(() => !!props.answer.question && !!session.me?.scopes.includes('ask'))
</script>

<template>
  <section class="rounded-lg border border-line bg-sheet p-5" :aria-label="answer.question || name">
    <p class="flex flex-wrap items-baseline justify-between gap-x-4 text-sm text-faint">
      <span class="min-w-0 break-words">{{ answer.question || say('kept-elsewhere') }}</span>
      <code v-if="name" class="font-mono text-xs">[={{ name }}]</code>
    </p>
    <template v-if="there">
      <h3 v-if="shows.includes('answer')" class="mt-1 max-w-[60ch] text-lg leading-snug break-words">{{ answer.text }}</h3>
      <p class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <TrustMark :line="{ state: 'ended', outcome: 'answered', trust: answer.trust ?? null }" />
        <span v-if="answer.since" class="text-sm" :class="answer.moved ? 'text-signal' : 'text-faint'">{{ answer.since }}</span>
      </p>
      <ul v-if="answer.caveats.length" class="mt-1 list-disc pl-5 text-sm text-signal"><li v-for="one in answer.caveats" :key="one.message" class="break-words">{{ one.message }}</li></ul>
      <p v-if="answer.said" class="mt-2 text-sm text-signal">{{ answer.said }}</p>
      <div v-if="chart" class="mt-4 overflow-x-auto" :style="{ minHeight: fits ? `${heightOf(chart, answer.table!.row_count)}px` : undefined }">
        <img :src="picture" :alt="chart.title" class="max-w-full" @load="fits = false" @error="fits = false" />
      </div>
      <ResultGrid v-if="table" :table="table" :first="first" class="mt-4 min-w-0" />
    </template>
    <p v-else class="mt-2 text-signal">{{ answer.said }}</p>
    <p v-if="problem" class="mt-2 text-sm text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</p>
    <details v-if="there && answer.sql" class="mt-3 text-sm">
      <summary class="text-faint">{{ say('kept-stands-on') }}</summary>
      <dl class="mt-2 grid gap-x-4 gap-y-1 sm:grid-cols-[10rem_1fr]">
        <template v-for="line in answer.lines" :key="line.label + line.text"><dt class="text-faint">{{ line.label }}</dt><dd class="min-w-0 break-words">{{ line.text }}</dd></template>
      </dl>
      <SqlBlock :sql="answer.sql" class="mt-2" />
    </details>
    <p class="mt-3 flex flex-wrap gap-x-4 gap-y-1 text-sm text-faint">
      <span v-if="answer.asked_at">{{ [answer.asked_by, instant(answer.asked_at), answer.source].filter(Boolean).join(' · ') }}</span>
      <RouterLink v-if="answer.mine" :to="{ name: 'leaf', params: { id: answer.inquiry } }" class="text-sea underline">{{ say('kept-open') }}</RouterLink>
      <button v-else-if="mayAsk" type="button" class="text-sea underline" :disabled="!!sending" @click="ask(answer.question, answer.source)">{{ say('ask-yourself') }}</button>
      <slot />
    </p>
  </section>
</template>
