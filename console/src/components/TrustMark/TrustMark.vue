<script setup lang="ts">
// How an inquiry ended, as a shape and a word; never by colour alone.
import { computed } from 'vue'
import type { InquiryLine } from '../../api/types'
import { ending } from '../../shared/format'
import { sayOf } from '../../shared/say'

const props = defineProps<{
  /** The inquiry, or its line in a list. */
  line: Pick<InquiryLine, 'state' | 'outcome' | 'trust'>
  /** Larger, for the head of a leaf. */
  large?: boolean
}>()

const word = computed(() => sayOf('ending', ending(props.line)))
const calm = computed(() => props.line.trust === 'clear' || props.line.outcome === 'clarify' || (props.line.state !== 'ended' && props.line.state !== 'held'))
const shape = computed(() => {
  if (props.line.state === 'held') return 'M8 1.5L14.5 8L8 14.5L1.5 8zM8 5v3.4M8 10.6v.8'
  if (props.line.state !== 'ended') return 'M8 2a6 6 0 1 1 0 12a6 6 0 1 1 0-12'
  if (props.line.trust === 'clear') return 'M8 1.5a6.5 6.5 0 1 1 0 13a6.5 6.5 0 1 1 0-13M4.8 8.2l2.3 2.3 4.2-4.8'
  if (props.line.trust === 'caution') return 'M8 1.8L15 14H1zM8 6v4M8 11.6v.8'
  if (props.line.outcome === 'clarify') return 'M8 1.5a6.5 6.5 0 1 1 0 13a6.5 6.5 0 1 1 0-13M6 6.4a2 2 0 1 1 2.7 1.9c-.5.2-.7.5-.7 1M8 11.4v.6'
  if (props.line.outcome === 'refused') return 'M2.5 2.5h11v11h-11zM5 8h6'
  if (props.line.outcome === 'unanswerable') return 'M8 1.5a6.5 6.5 0 1 1 0 13a6.5 6.5 0 1 1 0-13'
  return 'M3 3l10 10M13 3L3 13'
})
</script>

<template>
  <span
    class="inline-flex items-center gap-1.5 whitespace-nowrap"
    :class="[calm ? 'text-sea' : 'text-signal', large ? 'text-lg font-semibold' : 'text-sm']"
  >
    <svg viewBox="0 0 16 16" :class="[large ? 'size-6' : 'size-4', line.state !== 'ended' && line.state !== 'held' ? 'beats' : '']" aria-hidden="true">
      <path :d="shape" fill="none" stroke="currentColor" stroke-width="1.7" stroke-linecap="round" stroke-linejoin="round" />
    </svg>
    {{ word }}
  </span>
</template>
