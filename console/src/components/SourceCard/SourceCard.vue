<script setup lang="ts">
// One source: where it is, how it is, and what can be done with it.
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Source } from '../../api/types'
import { instant, milliseconds } from '../../shared/format'
import { Notice } from '../Notice'
import { useSource } from './useSource'
import { say, sayOf } from '../../shared/say'

const props = defineProps<{
  /** The source as the service lists it. */
  source: Source
}>()
const emit = defineEmits<{ changed: [] }>()

const { check, scan, busy, problem, runCheck, startScan, stopScan, change, remove } = useSource(
  props.source.name,
  () => emit('changed'),
  () => props.source.version > 0 || !!props.source.problem,
)
const removing = ref(false)
const state = computed(() => {
  if (!props.source.enabled) return 'off'
  if (scan.value?.state === 'running') return 'scanned'
  if (props.source.problem) return 'away'
  return props.source.version ? 'ready' : 'new'
})
const marks = { well: ['✓', 'text-sea'], warning: ['!', 'text-signal'], failed: ['✗', 'text-signal'], skipped: ['–', 'text-faint'] } as const
const summary = { well: 'all-is-well', warning: 'works-with-marks', failed: 'does-not-work' } as const
const button = 'rounded-lg border border-line px-3 py-1.5 text-sm hover:border-sea disabled:opacity-60'
</script>

<template>
  <section class="rounded-lg border border-line bg-sheet px-5 py-4" :aria-labelledby="`source-${source.name}`">
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2 :id="`source-${source.name}`" class="text-lg font-bold">{{ source.name }}</h2>
      <span class="text-sm" :class="state === 'away' ? 'font-semibold text-signal' : 'text-faint'">{{ say(`state-${state}`) }}</span>
      <span v-if="source.title" class="min-w-0 break-words text-faint">{{ source.title }}</span>
    </div>
    <p class="mt-1 font-mono text-sm break-all text-faint">{{ source.where }}</p>
    <p class="mt-1 text-sm text-faint">
      {{ say('n-tables', { n: source.tables }) }}<template v-if="source.scanned_at"> · {{ say('version-scanned', { version: source.version, at: instant(source.scanned_at) }) }}</template>
      · {{ say('drafts-by', { model: source.model }) }} · {{ say(source.origin === 'file' ? 'declared-in-file' : 'declared-in-records') }}
    </p>
    <Notice v-if="source.problem && state === 'away'" class="mt-3" :title="source.problem" :hint="source.hint ?? ''" />
    <div class="mt-3 flex flex-wrap gap-2">
      <RouterLink :to="{ name: 'catalog', params: { name: source.name } }" :class="button">{{ say('catalog') }}</RouterLink>
      <RouterLink :to="{ name: 'examples', params: { name: source.name } }" :class="button">{{ say('examples') }}</RouterLink>
      <button type="button" :class="button" :disabled="busy !== ''" @click="runCheck">{{ busy === 'check' ? say('checking') : say('check') }}</button>
      <button v-if="scan?.state === 'running'" type="button" :class="button" :disabled="busy !== ''" @click="stopScan">{{ say('stop-scan') }}</button>
      <button v-else type="button" :class="button" :disabled="busy !== '' || !source.enabled" @click="startScan">{{ busy === 'scan' ? say('starting') : say('scan') }}</button>
      <button type="button" :class="button" :disabled="busy !== ''" @click="change({ enabled: !source.enabled })">{{ source.enabled ? say('switch-off') : say('switch-on') }}</button>
      <template v-if="source.origin === 'records'">
        <button v-if="!removing" type="button" :class="button" @click="removing = true">{{ say('remove') }}</button>
        <span v-else class="flex flex-wrap items-center gap-2 text-sm">
          {{ say('what-goes') }}
          <button type="button" :class="[button, 'border-signal text-signal']" :disabled="busy !== ''" @click="remove">{{ say('remove-it') }}</button>
          <button type="button" :class="button" @click="removing = false">{{ say('keep-it') }}</button>
        </span>
      </template>
    </div>
    <div v-if="scan?.state === 'running'" class="mt-3" aria-live="polite">
      <div class="h-2 overflow-hidden rounded-full bg-wash" role="progressbar" :aria-valuenow="scan.done" :aria-valuemax="scan.tables">
        <div class="h-full bg-sea" :style="{ width: `${scan.tables ? (100 * scan.done) / scan.tables : 3}%` }" />
      </div>
      <p class="mt-1 truncate text-sm text-faint">
        <template v-if="scan.stage === 'structure'">{{ say('reading-structure') }}</template>
        <template v-else>{{ say('scan-progress', { done: scan.done, tables: scan.tables, now: scan.now }) }}</template>
      </p>
    </div>
    <Notice v-else-if="scan?.state === 'failed' && state !== 'away'" class="mt-3" :title="say('scan-failed', { problem: scan.problem })" :hint="scan.hint" />
    <Notice v-if="problem" class="mt-3" :title="problem.message" :hint="problem.hint" />
    <div v-if="check" class="mt-4 border-t border-line pt-3" aria-live="polite">
      <ol class="space-y-1.5">
        <li v-for="step in check.steps" :key="step.name" class="grid grid-cols-[1.2rem_7rem_minmax(0,1fr)_4rem] gap-x-2 text-sm">
          <span :class="marks[step.verdict][1]" class="font-bold" :aria-label="sayOf('step', step.verdict)">{{ marks[step.verdict][0] }}</span>
          <span :class="step.verdict === 'failed' ? 'font-semibold' : ''">{{ step.name }}</span>
          <span class="min-w-0 break-words">
            {{ step.said }}
            <span v-if="step.remedy" class="block text-faint">→ {{ step.remedy }}</span>
          </span>
          <span class="text-right text-faint tabular-nums">{{ milliseconds(step.elapsed_ms) }}</span>
        </li>
      </ol>
      <p class="mt-2 font-semibold" :class="check.verdict === 'well' ? 'text-sea' : 'text-signal'">{{ say(summary[check.verdict]) }}</p>
    </div>
  </section>
</template>
