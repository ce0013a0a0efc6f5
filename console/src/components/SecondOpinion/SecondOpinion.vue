<script setup lang="ts">
// Another way to the same figure, a draft or our own query from a reading of the question: whether its result says the same, and both when it does not.
import { computed } from 'vue'
import type { SecondOpinion } from '../../api/types'
import { ResultGrid } from '../ResultGrid'
import { SqlBlock } from '../SqlBlock'

const props = defineProps<{
  /** What the second way came to. */
  opinion: SecondOpinion
}>()

const verdict = computed(() =>
  props.opinion.agrees === null ? 'gives nothing to compare with' : props.opinion.agrees ? 'agrees' : 'comes to another result',
)
const who = computed(() =>
  props.opinion.reading ? `Our own query, from how ${props.opinion.model} reads the question,` : props.opinion.model,
)
const said = computed(() => {
  const text = props.opinion.said
  return text.charAt(0).toUpperCase() + text.slice(1) + (text.endsWith('.') ? '' : '.')
})
</script>

<template>
  <section aria-labelledby="second" class="mt-8">
    <h2 id="second" class="mb-3 border-b border-line pb-1 text-sm font-semibold text-faint">Second opinion</h2>
    <p>
      <strong :class="opinion.agrees === false ? 'text-signal' : ''">{{ who }} {{ verdict }}.</strong> {{ said }}
    </p>
    <div v-if="opinion.table" class="mt-3 grid items-start gap-6 lg:grid-cols-2">
      <ResultGrid :table="opinion.table" class="min-w-0" />
      <div class="min-w-0">
        <p v-if="opinion.read_back" class="mb-3 max-w-[72ch]">
          <span class="block text-sm text-faint">What the second query does, read from it</span>{{ opinion.read_back }}
        </p>
        <SqlBlock v-if="opinion.rewritten_sql" :sql="opinion.rewritten_sql" />
      </div>
    </div>
  </section>
</template>
