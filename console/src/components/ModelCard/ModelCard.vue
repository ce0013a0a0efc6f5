<script setup lang="ts">
// One language model: where it is, what it does, how it stands, and what a check of it said.
import { computed, ref } from 'vue'
import { api } from '../../api/client'
import type { Model, ModelCheck } from '../../api/types'
import { milliseconds } from '../../shared/format'
import { language, say } from '../../shared/say'
import { useDoing } from '../../shared/useDoing'
import { Notice } from '../Notice'

const props = defineProps<{
  /** The model as the service lists it. */
  model: Model
}>()
const emit = defineEmits<{ changed: [] }>()

const check = ref<ModelCheck | null>(null)
const { busy, problem, doing } = useDoing()
const marks = { closed: ['●', 'text-sea'], open: ['✗', 'text-signal font-semibold'], trying: ['◌', 'text-signal'] } as const
const number = (value: number): string => value.toLocaleString(language.value)
const priced = computed(() => props.model.prompt_price > 0 || props.model.completion_price > 0)

async function run(): Promise<void> {
  check.value = null
  await doing('check', async () => (check.value = await api.checkModel(props.model.name)))
  emit('changed')
}
</script>

<template>
  <section class="min-w-0 rounded-lg border border-line bg-sheet px-5 py-4" :aria-labelledby="`model-${model.name}`">
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2 :id="`model-${model.name}`" class="text-lg font-bold break-all">{{ model.name }}</h2>
      <span class="text-sm" :class="marks[model.state][1]">{{ marks[model.state][0] }} {{ say(`model-${model.state}`) }}</span>
    </div>
    <p class="mt-1 text-sm break-all text-faint"><span class="font-mono">{{ model.model }}</span> · {{ model.protocol }} · <span class="font-mono">{{ model.address }}</span></p>
    <ul v-if="model.duties.length" class="mt-2 flex flex-wrap gap-1 text-sm" :aria-label="say('duties')">
      <li v-for="duty in model.duties" :key="duty" class="rounded border border-line px-2 py-0.5 break-all">{{ duty }}</li>
    </ul>
    <p v-else class="mt-2 text-sm text-faint">{{ say('no-duties') }}</p>
    <p class="mt-2 text-sm text-faint">
      {{ say('n-calls', { n: model.calls }) }}<template v-if="model.failures"> · <span class="text-signal">{{ say('n-failed', { n: model.failures }) }}</span></template>
      · {{ priced ? say('price-per-million', { read: number(model.prompt_price), write: number(model.completion_price) }) : say('no-price') }}
    </p>
    <Notice v-if="model.state !== 'closed'" class="mt-3" :title="model.last_fault" :hint="say('left-alone-for', { seconds: Math.ceil(model.rests_s) })" />
    <div class="mt-3 flex flex-wrap items-center gap-x-3 gap-y-1">
      <button type="button" class="rounded-lg border border-line px-3 py-1.5 text-sm hover:border-sea disabled:opacity-60" :disabled="busy !== ''" @click="run">{{ busy ? say('checking') : say('check') }}</button>
      <span class="text-sm text-faint">{{ say('check-is-paid') }}</span>
    </div>
    <Notice v-if="problem" class="mt-3" :title="problem.message" :hint="problem.hint" />
    <div v-if="check" class="mt-3 border-t border-line pt-3 text-sm" role="status">
      <Notice v-if="!check.reached" :title="check.problem" :hint="check.hint" />
      <dl v-else class="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 gap-y-1">
        <dt class="text-faint">{{ say('replies') }}</dt>
        <dd>{{ say('first-and-total', { first: milliseconds(check.first_ms ?? 0), total: milliseconds(check.total_ms ?? 0) }) }}</dd>
        <dt class="text-faint">{{ say('tokens') }}</dt>
        <dd>{{ check.completion_tokens ? say('read-and-written', { read: number(check.prompt_tokens), written: number(check.completion_tokens) }) : say('not-counted') }}<template v-if="check.tokens_per_s"> · {{ say('per-second', { n: number(Math.round(check.tokens_per_s)) }) }}</template></dd>
        <dt class="text-faint">{{ say('shape') }}</dt>
        <dd>{{ say(check.shaped ? 'shape-kept' : 'shape-not-kept') }}</dd>
        <template v-if="check.cost"><dt class="text-faint">{{ say('cost') }}</dt><dd>{{ check.cost }}</dd></template>
      </dl>
      <p v-if="check.listed" class="mt-2 break-words text-faint">{{ say('server-has', { names: check.listed.slice(0, 12).join(', ') || '–' }) }}</p>
    </div>
  </section>
</template>
