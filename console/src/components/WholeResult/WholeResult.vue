<script setup lang="ts">
// All rows of an answer as a file: how far it has come, then where it can be fetched and how long.
import { computed, onScopeDispose, ref, watch } from 'vue'
import { api } from '../../api/client'
import type { Inquiry } from '../../api/types'
import { instant } from '../../shared/format'
import { language, say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry that delivers it. */
  inquiry: Inquiry
}>()

const EVERY_MS = 1000
const soFar = ref(props.inquiry.delivering)
const under = computed(() => props.inquiry.state === 'queued' || props.inquiry.state === 'working')
const delivery = computed(() => props.inquiry.answer?.delivery ?? null)
const size = (bytes: number): string => (bytes / 1e6).toLocaleString(language.value, { maximumFractionDigits: 1 })
const rowsOf = (n: number): string => say('n-rows', { n })

let timer = 0
async function look(): Promise<void> {
  // The end comes by the stream; a look that fails is made up for by the next one.
  soFar.value = await api.inquiry(props.inquiry.id).then((found) => found.delivering, () => soFar.value)
  if (under.value) timer = window.setTimeout(look, EVERY_MS)
}
watch(under, (yes) => { if (yes) void look() }, { immediate: true })
onScopeDispose(() => window.clearTimeout(timer))
</script>

<template>
  <p v-if="under" class="mt-2 text-faint tabular-nums" role="status">
    <template v-if="soFar">{{ say('rows-so-far', { rows: rowsOf(soFar.rows), size: size(soFar.bytes) }) }}</template>
    <template v-else>{{ say('no-rows-yet') }}</template>
  </p>
  <div v-else-if="delivery" class="mt-4 rounded-lg border border-line bg-sheet p-4">
    <p v-if="delivery.rows" class="flex flex-wrap gap-x-6 gap-y-2">
      <a :href="api.fileOf(inquiry.id, 'csv', {})" download class="text-sea underline">{{ say('csv-file') }}</a>
      <a :href="api.fileOf(inquiry.id, 'jsonl', {})" download class="text-sea underline">{{ say('jsonl-file') }}</a>
    </p>
    <p class="mt-2 text-sm text-faint">
      {{ say('rows-size', { rows: rowsOf(delivery.rows), size: size(delivery.bytes) }) }}
      <template v-if="delivery.until">{{ say('kept-until', { at: instant(delivery.until) }) }}</template>
    </p>
  </div>
</template>
