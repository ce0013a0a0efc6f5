<script setup lang="ts">
// Another way to the same figure, a draft or our own query from a reading of the question: whether its result says the same, and both when it does not.
import { computed } from 'vue'
import type { SecondOpinion } from '../../api/types'
import { ResultGrid } from '../ResultGrid'
import { SqlBlock } from '../SqlBlock'
import { say } from '../../shared/say'

const props = defineProps<{
  /** What the second way came to. */
  opinion: SecondOpinion
}>()

const verdict = computed(() =>
  say(props.opinion.agrees === null ? 'nothing-to-compare' : props.opinion.agrees ? 'agrees' : 'comes-to-another'),
)
const who = computed(() =>
  !props.opinion.reading ? props.opinion.model : props.opinion.model ? say('our-own-query', { model: props.opinion.model }) : say('our-own-query-changed'),
)
const said = computed(() => {
  const text = props.opinion.said
  return text.charAt(0).toUpperCase() + text.slice(1) + (text.endsWith('.') ? '' : '.')
})
</script>

<template>
  <section aria-labelledby="second" class="mt-8">
    <h2 id="second" class="mb-3 border-b border-line pb-1 text-sm font-semibold text-faint">{{ say('second-opinion') }}</h2>
    <p>
      <strong :class="opinion.agrees === false ? 'text-signal' : ''">{{ who }} {{ verdict }}.</strong> {{ said }}
    </p>
    <div v-if="opinion.table" class="mt-3 grid items-start gap-6 lg:grid-cols-2">
      <ResultGrid :table="opinion.table" class="min-w-0" />
      <div class="min-w-0">
        <p v-if="opinion.read_back" class="mb-3 max-w-[72ch]">
          <span class="block text-sm text-faint">{{ say('what-second-does') }}</span>{{ opinion.read_back }}
        </p>
        <SqlBlock v-if="opinion.rewritten_sql" :sql="opinion.rewritten_sql" />
      </div>
    </div>
  </section>
</template>
