<script setup lang="ts">
// The trail as a course line: stations from left to right, a lane for each attempt, a repair as a loop
// back to the model. While the inquiry is under way the line is drawn as it goes.
import { computed, ref, watch } from 'vue'
import type { Inquiry, TrailEvent } from '../../api/types'
import { arriving } from '../../shared/reply'
import StopDetail from './StopDetail.vue'
import { STATIONS } from '../../shared/events'
import { legsOf, stopsOf, type Stop } from './stops'
import { say, sayOf } from '../../shared/say'

const props = defineProps<{
  /** What happened so far. */
  events: TrailEvent[]
  /** The inquiry, for what the events leave out. */
  inquiry: Inquiry
  /** What the model is writing right now. */
  writing: string
}>()

const MOST_SHOWN = 240
const [STEP, LANE, TOP, LEFT] = [104, 74, 42, 52]
const stops = computed(() => stopsOf(props.events))
const chosen = ref<number | null>(null)
const open = computed(() => stops.value.find((s) => s.key === chosen.value) ?? null)
const lanes = computed(() => Math.max(1, ...stops.value.map((s) => s.lane)))
const height = computed(() => TOP + lanes.value * LANE)
const width = LEFT * 2 + STEP * (STATIONS.length - 1)
const under = computed(() => props.inquiry.state !== 'ended' && props.inquiry.state !== 'held')

const x = (stop: Stop): number => LEFT + stop.column * STEP
const y = (stop: Stop): number => TOP + (stop.lane - 1) * LANE

const legs = computed(() =>
  legsOf(stops.value).map(({ from, to }) => {
    const [x1, y1, x2, y2] = [x(from), y(from), x(to), y(to)]
    const loop = to.column < from.column
    // A loop swings out to the right, runs back between the lanes and comes in to the model from the left.
    const [between, swing] = [y1 + LANE * 0.56, STEP * 0.5]
    const d = loop
      ? `M${x1} ${y1} C${x1 + swing} ${y1}, ${x1 + swing} ${between}, ${x1} ${between} L${x2} ${between} ` +
        `C${x2 - swing} ${between}, ${x2 - swing} ${y2}, ${x2} ${y2}`
      : `M${x1} ${y1} L${x2} ${y2}`
    return { d, loop, aside: !!to.duty, key: `${from.key}-${to.key}` }
  }),
)

/** The end of what is being written. */
const last = computed(() => {
  const told = arriving(props.writing)
  return told.length > MOST_SHOWN ? `… ${told.slice(-MOST_SHOWN)}` : told
})

watch(() => props.events.length, () => { if (under.value) chosen.value = null })

/** The name of a stop, for people. */
function called(stop: Stop): string {
  return stop.label ? sayOf('label', stop.label) : sayOf('station', stop.station)
}

function toggle(stop: Stop): void {
  chosen.value = chosen.value === stop.key ? null : stop.key
}
</script>

<template>
  <div>
    <div class="hidden overflow-x-auto rounded-lg border border-line bg-sheet md:block">
      <div class="relative mx-auto" :style="{ width: `${width}px`, height: `${height}px` }">
        <svg :width="width" :height="height" class="absolute inset-0" aria-hidden="true">
          <line :x1="LEFT" :x2="width - LEFT" :y1="TOP" :y2="TOP" stroke="var(--line)" stroke-width="2" stroke-dasharray="1 7" stroke-linecap="round" />
          <path v-for="leg in legs" :key="leg.key" :d="leg.d" class="draws" fill="none" :stroke="leg.loop && !leg.aside ? 'var(--signal)' : 'var(--sea)'" stroke-width="2.5" :stroke-dasharray="leg.loop ? '5 4' : undefined" />
        </svg>
        <span v-for="(station, index) in STATIONS" :key="station" class="absolute top-1.5 -translate-x-1/2 text-xs text-faint" :style="{ left: `${LEFT + index * STEP}px` }">{{ sayOf('station', station) }}</span>
        <button
          v-for="(stop, index) in stops"
          :key="stop.key"
          type="button"
          class="absolute flex -translate-x-1/2 -translate-y-2.5 flex-col items-center gap-0.5 rounded px-1"
          :style="{ left: `${x(stop)}px`, top: `${y(stop)}px` }"
          :aria-expanded="chosen === stop.key"
          :aria-label="`${stop.duty ? `${sayOf('duty', stop.duty)}: ` : ''}${called(stop)}, ${stop.time}: ${stop.said}`"
          @click="toggle(stop)"
        >
          <svg viewBox="0 0 20 20" class="size-5" :class="under && index === stops.length - 1 ? 'beats' : ''" aria-hidden="true">
            <rect v-if="stop.halted" x="3" y="3" width="14" height="14" fill="var(--sheet)" stroke="var(--signal)" stroke-width="2.5" />
            <circle v-else cx="10" cy="10" r="7" :fill="chosen === stop.key ? 'var(--sea)' : 'var(--sheet)'" stroke="var(--sea)" stroke-width="2.5" />
            <path v-if="stop.halted" d="M6.5 6.5l7 7M13.5 6.5l-7 7" stroke="var(--signal)" stroke-width="2" />
          </svg>
          <span class="bg-sheet/80 text-xs whitespace-nowrap text-faint tabular-nums">{{ stop.time }}</span>
          <span v-if="stop.duty && stops.findIndex((s) => s.duty === stop.duty) === index" class="text-xs whitespace-nowrap text-faint">{{ sayOf('duty', stop.duty) }}</span>
          <span v-if="stop.label" class="text-xs font-semibold" :class="stop.halted ? 'text-signal' : 'text-sea'">{{ sayOf('label', stop.label) }}</span>
        </button>
      </div>
    </div>
    <ol class="rounded-lg border border-line bg-sheet md:hidden">
      <li v-for="stop in stops" :key="stop.key" class="border-b border-line last:border-0">
        <button type="button" class="flex w-full items-baseline gap-3 px-3 py-2 text-left text-sm" :aria-expanded="chosen === stop.key" @click="toggle(stop)">
          <span class="w-14 shrink-0 text-right text-xs text-faint tabular-nums">{{ stop.time }}</span>
          <span class="w-24 shrink-0 font-semibold" :class="stop.halted ? 'text-signal' : ''">{{ stop.halted ? '✕ ' : '' }}{{ called(stop) }}<span v-if="stop.duty" class="block text-xs font-normal text-faint">{{ sayOf('duty', stop.duty) }}</span></span>
          <span class="min-w-0">{{ stop.said }}</span>
        </button>
      </li>
    </ol>
    <p v-if="under" class="mt-2 min-h-12 font-mono text-xs break-words text-faint" aria-live="off">{{ last }}</p>
    <StopDetail v-if="open" class="mt-3" :stop="open" :inquiry="inquiry" />
    <p v-else-if="!under" class="mt-2 text-sm text-faint">{{ say('choose-a-stop') }}</p>
  </div>
</template>
