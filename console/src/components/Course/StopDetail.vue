<script setup lang="ts">
// What happened at one stop: prompt and reply whole, the ruling with its policy line, the plan, the run.
import { computed } from 'vue'
import type { Inquiry } from '../../api/types'
import { numberOf } from '../../shared/events'
import { marksOf, milliseconds } from '../../shared/format'
import { readReply } from '../../shared/reply'
import { SqlBlock } from '../SqlBlock'
import type { Stop } from './stops'
import { say, sayOf } from '../../shared/say'

const props = defineProps<{
  /** The stop to open. */
  stop: Stop
  /** Its inquiry. */
  inquiry: Inquiry
}>()

const event = computed(() => props.stop.events[0]!)
const texts = computed(() => event.value.texts)
const ruling = computed(() => (event.value.kind === 'ruled' ? event.value.facts : undefined))
const steps = computed(() => (event.value.kind === 'planned' ? event.value.facts.steps : undefined))
const messages = computed<{ role: string; content: string }[]>(() => JSON.parse(texts.value.prompt ?? '[]'))
const attempt = computed(() => (props.stop.duty ? undefined : props.inquiry.attempts.find((a) => a.number === numberOf(event.value))))
const reply = computed(() => readReply(texts.value.reply ?? ''))
const marks = computed(() => marksOf(attempt.value?.findings ?? []))
// The guard keeps the draft among its texts; review looks at the same one.
const draft = computed(() => texts.value.draft ?? (props.stop.station === 'review' ? attempt.value?.draft?.sql : undefined))
const changes = computed(() => (draft.value ? (attempt.value?.changes ?? []) : []))
const findings = computed(() => {
  const all = props.stop.events.flatMap((e) => (e.kind === 'found' ? e.facts.findings : []))
  return all.filter((f, index) => all.findIndex((g) => g.message === f.message) === index)
})
const timings = computed(() => Object.entries(props.inquiry.timings).filter(([, ms]) => ms > 0))
</script>

<template>
  <section class="rounded-lg border border-line bg-sheet p-4" :aria-label="sayOf('station', stop.station)">
    <h3 class="mb-1 font-semibold"><template v-if="stop.duty">{{ sayOf('duty', stop.duty) }}: </template>{{ sayOf('station', stop.station) }} <span class="font-normal text-faint">{{ say('after', { time: stop.time }) }}</span></h3>
    <p>{{ stop.said }}</p>
    <p v-if="ruling" class="text-sm text-faint">
      <i18n path="verdict-line" tag="span" :args="{ verdict: sayOf('verdict', ruling.verdict ?? '') }"><template #line><code class="font-mono">{{ ruling.policy_line }}</code></template></i18n>
    </p>
    <ul v-if="findings.length" class="mt-2 list-disc pl-5 text-sm">
      <li v-for="(finding, index) in findings" :key="index">
        {{ finding.message }} <code class="font-mono text-xs text-faint">{{ finding.rule }}</code>
      </li>
    </ul>
    <dl v-if="stop.station === 'briefing' && inquiry.briefing" class="mt-2 max-h-80 overflow-y-auto text-sm">
      <div v-for="table in inquiry.briefing.tables" :key="table.name" class="border-b border-line/60 py-1">
        <dt><code class="font-mono font-semibold">{{ table.name }}</code> <span class="text-faint">{{ table.reason }}</span></dt>
        <dd class="text-faint">{{ table.columns.join(', ') }}</dd>
      </div>
    </dl>
    <div v-for="(message, index) in messages" :key="index" class="mt-3">
      <p class="text-xs font-semibold text-faint uppercase">{{ message.role }}</p>
      <pre class="max-h-96 overflow-auto rounded border border-line bg-paper p-2 font-mono text-xs break-words whitespace-pre-wrap" tabindex="0">{{ message.content }}</pre>
    </div>
    <template v-if="texts.reply">
      <template v-if="reply">
        <SqlBlock v-if="reply.sql" class="mt-3" :sql="reply.sql" />
        <p v-if="reply.explanation" class="mt-2 text-sm text-faint">{{ say(reply.sql ? 'model-on-draft' : 'model-cannot', { text: reply.explanation }) }}</p>
      </template>
      <details class="mt-3" :open="!reply">
        <summary class="text-sm text-sea underline">{{ say('reply-as-it-came') }}</summary>
        <pre class="mt-2 max-h-96 overflow-auto rounded border border-line bg-paper p-2 font-mono text-xs break-words whitespace-pre-wrap" tabindex="0">{{ texts.reply }}</pre>
      </details>
    </template>
    <SqlBlock v-if="draft" class="mt-3" :sql="draft" :marks="marks" />
    <div v-if="changes.length" class="mt-3">
      <p class="text-xs font-semibold text-faint">{{ say('against-before') }}</p>
      <ul class="mt-1 font-mono text-xs">
        <li v-for="(change, index) in changes" :key="index" class="break-words" :class="change.kind === 'removed' ? 'text-signal' : 'text-sea'">
          <span aria-hidden="true">{{ change.kind === 'removed' ? '− ' : '+ ' }}</span><span class="sr-only">{{ sayOf('change', change.kind) }}: </span><component :is="change.kind === 'removed' ? 'del' : 'ins'" :class="change.kind === 'removed' ? '' : 'no-underline'">{{ change.text }}</component>
        </li>
      </ul>
    </div>
    <ol v-if="steps" class="mt-2 font-mono text-xs">
      <li v-for="(step, index) in steps" :key="index" class="whitespace-pre-wrap">{{ step }}</li>
    </ol>
    <SqlBlock v-if="texts.sql" class="mt-3" :sql="texts.sql" />
    <dl v-if="event.kind === 'ended'" class="mt-2 grid w-fit grid-cols-[auto_auto] gap-x-6 text-sm">
      <template v-for="[name, ms] in timings" :key="name">
        <dt class="text-faint">{{ sayOf('timing', name.replace('_ms', '')) }}</dt>
        <dd class="text-right tabular-nums">{{ milliseconds(ms) }}</dd>
      </template>
    </dl>
  </section>
</template>
