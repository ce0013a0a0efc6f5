<script setup lang="ts">
// The first page: starter questions of the chosen source, and what was asked last.
import { computed, onUnmounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, Problem } from '../api/client'
import type { InquiryLine } from '../api/types'
import { useAsk } from '../components/AskBar/useAsk'
import { Notice } from '../components/Notice'
import { TrustMark } from '../components/TrustMark'
import { instant } from '../shared/format'
import { ANY, session } from '../shared/session'
import { say } from '../shared/say'

const source = computed(() => session.sources.find((s) => s.name === session.chosen) ?? null)
/** Where any source may be meant, the first starters of each. */
const starters = computed(() => {
  const from = session.chosen === ANY ? session.sources.filter((s) => s.enabled) : source.value ? [source.value] : []
  return from.flatMap((s) => s.starters.slice(0, session.chosen === ANY ? 2 : undefined).map((question) => ({ question, source: s.name })))
})
const lines = ref<InquiryLine[] | null>(null)
const loading = ref<Problem | null>(null)
const { ask, sending, problem } = useAsk()

// Starters are tried before they are shown: on the first visit they come one by one.
const looks = ref(0)
const timer = window.setInterval(() => {
  if ((source.value?.starters.length ?? 0) >= 6 || ++looks.value > 40) window.clearInterval(timer)
  else session.loadSources().catch(() => window.clearInterval(timer))
}, 1500)
onUnmounted(() => window.clearInterval(timer))

api.inquiries(null).then(
  (page) => (lines.value = page.items.slice(0, 6)),
  (error: Problem) => (loading.value = error),
)
</script>

<template>
  <div class="grid gap-12 pt-10 lg:grid-cols-[3fr_2fr]">
    <section>
      <h1 class="text-2xl font-bold tracking-tight">{{ say('what-to-know') }}</h1>
      <template v-if="session.chosen === ANY">
        <p class="mt-1 text-faint">{{ say('any-source-what-more', { n: session.sources.length }) }}</p>
        <Notice v-if="problem" class="mt-4" :title="problem.message" :hint="problem.hint" />
      </template>
      <Notice v-else-if="!source" class="mt-4" :title="say('no-source')" :hint="say('no-source-hint')" />
      <template v-else>
        <p class="mt-1 text-faint">
          {{ source.title || source.name }} · {{ say('n-tables', { n: source.tables }) }}<template v-if="source.as_of"> · {{ say('now-is', { at: instant(source.as_of) }) }}</template>
        </p>
        <Notice v-if="source.problem" class="mt-4" :title="source.problem" :hint="source.hint ?? ''" />
        <Notice v-if="problem" class="mt-4" :title="problem.message" :hint="problem.hint" />
        <p v-if="!starters.length && source.scanning" class="beats mt-6 text-faint">{{ say('first-read') }}</p>
        <p v-else-if="!starters.length && looks < 40 && !source.problem" class="mt-6">{{ say('write-a-question') }} <span class="beats text-faint">{{ say('starters-tried') }}</span></p>
        <p v-else-if="!starters.length" class="mt-6">{{ say('write-a-question') }}</p>
      </template>
      <ul v-if="starters.length" class="mt-6 divide-y divide-line border-y border-line">
        <li v-for="starter in starters" :key="`${starter.source} ${starter.question}`">
          <button type="button" :disabled="!!sending" class="group flex w-full items-center gap-4 py-3 text-left text-lg hover:text-sea disabled:opacity-60" @click="ask(starter.question, starter.source)">
            <span class="min-w-0 flex-1">{{ starter.question }}<span v-if="session.chosen === ANY" class="block text-sm text-faint">{{ starter.source }}</span></span>
            <svg viewBox="0 0 16 16" class="size-4 shrink-0 text-faint group-hover:text-sea" aria-hidden="true"><path d="M3 8h10M9 4l4 4-4 4" fill="none" stroke="currentColor" stroke-width="1.7" /></svg>
          </button>
        </li>
      </ul>
    </section>
    <section aria-labelledby="last">
      <h2 id="last" class="font-semibold">{{ say('asked-last') }}</h2>
      <Notice v-if="loading" class="mt-3" :title="loading.message" :hint="loading.hint" />
      <p v-else-if="lines === null" class="beats mt-3 text-faint">{{ say('loading') }}</p>
      <p v-else-if="!lines.length" class="mt-3 text-faint">{{ say('nothing-yet') }}</p>
      <ul v-else class="mt-3 space-y-3">
        <li v-for="line in lines" :key="line.id">
          <RouterLink :to="{ name: 'leaf', params: { id: line.id } }" class="block rounded-lg border border-line bg-sheet px-4 py-3 hover:border-sea">
            <span class="line-clamp-2 break-words">{{ line.standalone_question ?? line.question }}</span>
            <TrustMark :line="line" class="mt-1" />
          </RouterLink>
        </li>
      </ul>
    </section>
  </div>
</template>
