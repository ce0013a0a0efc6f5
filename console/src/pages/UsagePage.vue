<script setup lang="ts">
// What calls of language models came to: by day and by what they were for, and what of today's budgets is left.
import { computed, ref, watch } from 'vue'
import { api } from '../api/client'
import type { Usage, UsageLine } from '../api/types'
import { Notice } from '../components/Notice'
import { language, say } from '../shared/say'
import { useDoing } from '../shared/useDoing'

const ways = ['day', 'model', 'source', 'person', 'duty'] as const
const by = ref<(typeof ways)[number]>('day')
const usage = ref<Usage | null>(null)
const { busy, problem, doing } = useDoing('load')

async function load(): Promise<void> {
  await doing('load', async () => (usage.value = await api.usage(by.value)))
}

/** By what it costs; where nothing has a price, by its tokens. */
const priced = computed(() => Number(usage.value?.total.cost ?? 0) > 0)
const worth = (line: UsageLine): number => (priced.value ? Number(line.cost) : line.prompt_tokens + line.completion_tokens)
const most = computed(() => Math.max(...(usage.value?.lines.map(worth) ?? []), Number.MIN_VALUE))
const number = (value: number): string => value.toLocaleString(language.value)
const money = (value: string): string => Number(value).toLocaleString(language.value, { minimumFractionDigits: 2, maximumFractionDigits: 4 })
const amount = (value: string, unit: string): string => (unit === 'cost' ? money(value) : say('so-many-tokens', { n: number(Number(value)) }))
const share = (spent: string, limit: string): number => Math.min(100, Number(limit) ? (100 * Number(spent)) / Number(limit) : 100)

watch(by, load)
void load()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('usage') }}</h1>
    <p class="mt-1 max-w-[70ch] text-faint">{{ say('usage-what') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="usage === null" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <template v-else>
      <ul v-if="usage.budgets.length" class="mt-6 grid gap-4 sm:grid-cols-2 lg:grid-cols-3" :aria-label="say('budgets')">
        <li v-for="budget in usage.budgets" :key="`${budget.name} ${budget.unit}`" class="min-w-0 rounded-lg border border-line bg-sheet px-4 py-3">
          <p class="text-sm break-words text-faint">{{ say('today-of', { whose: budget.name === 'all' ? say('all-together') : budget.name }) }}</p>
          <p>{{ say('spent-of', { spent: amount(budget.spent, budget.unit), limit: amount(budget.limit, budget.unit) }) }}</p>
          <div class="mt-2 h-2 rounded bg-wash" aria-hidden="true"><div class="h-2 rounded" :class="share(budget.spent, budget.limit) >= 100 ? 'bg-signal' : 'bg-sea'" :style="{ width: `${share(budget.spent, budget.limit)}%` }" /></div>
        </li>
      </ul>
      <div class="mt-6 flex flex-wrap items-center gap-x-4 gap-y-2">
        <label class="text-sm text-faint">{{ say('added-up-by') }}
          <select v-model="by" class="rounded-md border border-line bg-sheet px-2 py-1 text-ink" :disabled="busy !== ''">
            <option v-for="way in ways" :key="way" :value="way">{{ say(`by-${way}`) }}</option>
          </select>
        </label>
        <span class="text-sm text-faint">{{ say('days-from-to', { since: usage.since, until: usage.until }) }}</span>
      </div>
      <p v-if="!usage.lines.length" class="mt-6 text-faint">{{ say('no-usage') }}</p>
      <div v-else class="mt-4 overflow-x-auto rounded-lg border border-line bg-sheet" tabindex="0" role="region" :aria-label="say('usage')">
        <table class="w-full text-sm tabular-nums">
          <thead>
            <tr class="border-b border-line text-left text-faint [&>th]:first-letter:uppercase">
              <th class="px-4 py-2 font-normal">{{ say(`by-${usage.by}`) }}</th>
              <th class="hidden w-1/3 px-2 py-2 font-normal sm:table-cell" aria-hidden="true" />
              <th class="px-2 py-2 text-right font-normal">{{ say('cost') }}</th>
              <th class="px-2 py-2 text-right font-normal">{{ say('calls') }}</th>
              <th class="px-2 py-2 text-right font-normal">{{ say('tokens-read') }}</th>
              <th class="px-4 py-2 text-right font-normal">{{ say('tokens-written') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in usage.lines" :key="line.name" class="border-b border-line last:border-0">
              <th scope="row" class="px-4 py-2 text-left font-normal break-words" :class="usage.by === 'day' ? 'whitespace-nowrap' : ''">{{ line.name }}</th>
              <td class="hidden px-2 py-2 sm:table-cell" aria-hidden="true"><div class="h-3 min-w-px rounded-sm bg-sea" :style="{ width: `${(100 * worth(line)) / most}%` }" /></td>
              <td class="px-2 py-2 text-right">{{ Number(line.cost) ? money(line.cost) : '–' }}</td>
              <td class="px-2 py-2 text-right">{{ number(line.calls) }}</td>
              <td class="px-2 py-2 text-right">{{ number(line.prompt_tokens) }}</td>
              <td class="px-4 py-2 text-right">{{ number(line.completion_tokens) }}</td>
            </tr>
          </tbody>
          <tfoot>
            <tr class="border-t border-line font-semibold">
              <th scope="row" class="px-4 py-2 text-left">{{ say('all-together') }}</th>
              <td class="hidden sm:table-cell" />
              <td class="px-2 py-2 text-right">{{ priced ? money(usage.total.cost) : '–' }}</td>
              <td class="px-2 py-2 text-right">{{ number(usage.total.calls) }}</td>
              <td class="px-2 py-2 text-right">{{ number(usage.total.prompt_tokens) }}</td>
              <td class="px-4 py-2 text-right">{{ number(usage.total.completion_tokens) }}</td>
            </tr>
          </tfoot>
        </table>
      </div>
      <p v-if="usage.total.estimated" class="mt-2 text-sm text-faint">{{ say('n-estimated', { n: usage.total.estimated }) }}</p>
    </template>
  </section>
</template>
