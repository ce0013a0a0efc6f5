<script setup lang="ts">
// The example bank of a source: questions with SQL that is known to answer them.
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../api/client'
import type { Example } from '../api/types'
import { Notice } from '../components/Notice'
import { SqlBlock } from '../components/SqlBlock'
import { useDoing } from '../shared/useDoing'
import { say } from '../shared/say'

const props = defineProps<{
  /** The source's name, from the path. */
  name: string
}>()

const examples = ref<Example[] | null>(null)
const opened = ref<number | null>(null)
const removing = ref<number | null>(null)
const question = ref('')
const sql = ref('')
const { busy, problem, doing: attempt } = useDoing()
const stale = computed(() => examples.value?.filter((e) => e.state === 'stale').length ?? 0)
const marks: Record<string, string> = { checked: '✓', stale: '✗', new: '·', off: '–' }

async function doing(what: string, work: () => Promise<unknown>): Promise<void> {
  await attempt(what, async () => {
    await work()
    examples.value = await api.examples(props.name)
  })
}

async function add(): Promise<void> {
  await doing('add', () => api.addExample(props.name, { question: question.value, sql: sql.value }))
  if (!problem.value) question.value = sql.value = ''
}

void doing('load', async () => undefined)
</script>

<template>
  <section class="pt-10">
    <p class="text-sm text-faint"><RouterLink :to="{ name: 'sources' }" class="underline">{{ say('sources') }}</RouterLink> / {{ name }}</p>
    <div class="mt-1 flex flex-wrap items-center justify-between gap-4">
      <h1 class="text-2xl font-bold tracking-tight">{{ say('examples') }}</h1>
      <button type="button" :disabled="busy !== ''" class="rounded-lg border border-line bg-sheet px-4 py-2 disabled:opacity-60" @click="doing('check', () => api.checkExamples(name))">
        {{ busy === 'check' ? say('checking') : say('check-all') }}
      </button>
    </div>
    <p class="mt-1 max-w-[70ch] text-faint">
      {{ say('examples-what') }}<template v-if="stale"> <strong class="text-signal">{{ say('examples-stale', { n: stale }) }}</strong></template>
    </p>
    <Notice v-if="problem" class="mt-4" :title="problem.message" :hint="problem.hint" />
    <p v-if="examples === null && !problem" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <p v-else-if="examples?.length === 0" class="mt-6 text-faint">{{ say('no-examples') }}</p>
    <ul v-else-if="examples" class="mt-6 divide-y divide-line rounded-lg border border-line bg-sheet">
      <li v-for="example in examples" :key="example.id" class="px-4 py-3">
        <div class="grid gap-x-4 gap-y-1 sm:grid-cols-[6.5rem_minmax(0,1fr)_auto]">
          <span class="text-sm" :class="example.state === 'stale' ? 'font-semibold text-signal' : 'text-faint'">{{ marks[example.state] }} {{ say(`example-${example.state}`) }}</span>
          <button type="button" class="min-w-0 text-left break-words hover:text-sea" :aria-expanded="opened === example.id" @click="opened = opened === example.id ? null : example.id">
            {{ example.question }}
            <span class="block text-sm text-faint">{{ example.said }}<template v-if="example.author"> · {{ example.author }}</template><template v-if="example.alike.length"> · {{ say('nearly-same') }}</template></span>
          </button>
          <span class="flex gap-3 text-sm">
            <button type="button" :disabled="busy !== ''" class="text-sea underline" @click="doing('change', () => api.changeExample(name, example.id, { off: example.state !== 'off' }))">{{ example.state === 'off' ? say('switch-on') : say('switch-off') }}</button>
            <button v-if="removing !== example.id" type="button" :disabled="busy !== ''" class="text-sea underline" @click="removing = example.id">{{ say('remove') }}</button>
            <template v-else>
              <button type="button" :disabled="busy !== ''" class="font-semibold text-signal underline" @click="doing('remove', () => api.removeExample(name, example.id))">{{ say('remove-it') }}</button>
              <button type="button" class="text-sea underline" @click="removing = null">{{ say('keep-it') }}</button>
            </template>
          </span>
        </div>
        <SqlBlock v-if="opened === example.id" class="mt-3" :sql="example.sql" />
      </li>
    </ul>
    <form v-if="examples !== null || problem" class="mt-8 max-w-3xl space-y-3" @submit.prevent="add">
      <h2 class="font-semibold">{{ say('add-one') }}</h2>
      <label class="block text-sm">{{ say('question') }}<input v-model.trim="question" required class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2" /></label>
      <label class="block text-sm">{{ say('sql-that-answers') }}<textarea v-model.trim="sql" required rows="4" spellcheck="false" class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2 font-mono text-sm" /></label>
      <button type="submit" :disabled="busy !== ''" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60">{{ busy === 'add' ? say('checking-it') : say('add') }}</button>
    </form>
  </section>
</template>
