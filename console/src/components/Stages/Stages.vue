<script setup lang="ts">
// What an inquiry is at and what each stage has taken so far, while it is under way.
import { computed, onBeforeUnmount, ref } from 'vue'
import type { TrailEvent } from '../../api/types'
import { milliseconds } from '../../shared/format'
import { say } from '../../shared/say'
import { happened, stagesOf } from '../../shared/stages'

const props = defineProps<{
  /** What has happened so far. */
  events: TrailEvent[]
}>()

const EVERY_MS = 200
// The clock here may differ from that of the service: what counts is what has passed since the last event came.
const passed = ref(0)
let came = performance.now()
let known = 0
const timer = window.setInterval(() => {
  if (props.events.length !== known) [known, came] = [props.events.length, performance.now()]
  passed.value = performance.now() - came
}, EVERY_MS)
onBeforeUnmount(() => window.clearInterval(timer))

const stages = computed(() => {
  const last = props.events.at(-1)
  return last ? stagesOf(happened(props.events), Date.parse(last.at) + passed.value) : []
})
</script>

<template>
  <ol class="mt-3 flex min-h-6 flex-wrap gap-x-5 gap-y-1 text-sm" :aria-label="say('stages')">
    <li v-for="one in stages" :key="one.stage" class="whitespace-nowrap" :class="one.open ? 'text-sea' : 'text-faint'" :aria-current="one.open ? 'step' : undefined">
      {{ say(`stage-of-${one.stage}`) }} <span class="inline-block min-w-14 tabular-nums">{{ milliseconds(one.taken) }}</span>
    </li>
  </ol>
</template>
