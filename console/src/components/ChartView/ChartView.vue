<script setup lang="ts">
// The chart of an answer: drawn by the service's specification, adjusted without asking the database again.
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { Result } from 'vega-embed'
import { api } from '../../api/client'
import type { Chart, Drawing } from '../../api/types'
import { dark } from '../../shared/theme'
import { useDoing } from '../../shared/useDoing'
import { heightOf } from './height'
import type { Wish } from './wish'
import { say as tell } from '../../shared/say'

const props = defineProps<{
  /** The inquiry's id. */
  inquiry: string
  /** What is drawn where nobody wishes otherwise. */
  chart: Chart
  /** How many rows the answer has. */
  rows: number
  /** What became of a wish about it in the question; empty where there was none. */
  said: string
}>()
const emit = defineEmits<{
  /** How it is drawn now, for whoever takes it away. */
  wished: [wish: Wish]
}>()

const place = ref<HTMLElement>()
const drawing = shallowRef<Drawing | null>(null)
const shown = computed(() => drawing.value?.chart ?? props.chart)
const wish = ref<Wish>({})
const words = ref('')
const drawn = ref(false)
const failed = ref('')
const { busy, problem, doing } = useDoing()
let view: Result | undefined

const figures = computed(() => props.chart.columns.filter((column) => column.figure))
const apart = computed(() => props.chart.columns.filter((column) => !column.figure))
// Times are drawn all.
const counted = computed(() => (shown.value.kind === 'bars' || shown.value.kind === 'columns') && shown.value.order !== 'natural' && apart.value.length > 0)
/** Of what it will take, so that nothing below it jumps. */
const height = computed(() => heightOf(props.chart, props.rows))

/** Only where a chart is looked at is what draws it fetched. */
async function draw(): Promise<void> {
  const fetched = await doing('draw', async () => {
    drawing.value = await api.draw(props.inquiry, { ...wish.value, ...(dark.value ? { dark: '1' } : {}) })
  })
  if (!fetched || !drawing.value?.spec || !place.value) return
  try {
    const { default: embed } = await import('vega-embed')
    view?.finalize()
    // Expressions are interpreted, not made into code.
    view = await embed(place.value, drawing.value.spec, { actions: false, renderer: 'svg', ast: true, tooltip: { theme: dark.value ? 'dark' : 'light' } })
    drawn.value = true
    failed.value = ''
  } catch {
    failed.value = tell('not-drawn')
  }
}

async function change(more: Wish): Promise<void> {
  wish.value = { ...wish.value, ...more }
  emit('wished', wish.value)
  await draw()
}

async function say(): Promise<void> {
  const spoken = words.value.trim()
  if (!spoken) return
  await doing('draw', async () => {
    drawing.value = await api.draw(props.inquiry, { ...wish.value, say: spoken })
  })
  const made = drawing.value
  if (!made?.chart || problem.value) return
  // What was understood stands in the fields from now on, and the words are done with.
  const { kind, top, along, colour, figures: of } = made.chart
  const note = made.note
  await change({ kind, top, ...(along === null ? {} : { along }), ...(colour === null ? {} : { colour }), ...(of.length === 1 ? { figure: of[0]! } : {}) })
  if (note && drawing.value) drawing.value = { ...drawing.value, note }
  else words.value = ''
}

const number = (event: Event): number => Number((event.target as HTMLSelectElement).value)

onMounted(draw)
watch(dark, draw)
onBeforeUnmount(() => view?.finalize())
</script>

<template>
  <figure class="min-w-0" :aria-label="chart.title">
    <div class="overflow-hidden rounded-lg border border-line bg-sheet p-2" :style="{ minHeight: drawn ? undefined : `${height}px` }">
      <p v-if="!drawn && !problem && !failed" class="beats p-2 text-sm text-faint">{{ tell('drawing') }}</p>
      <div ref="place" class="chart w-full" />
      <p v-if="problem" class="p-2 text-signal" role="alert">{{ problem.message }} {{ problem.hint }} <button type="button" class="text-sea underline" @click="draw">{{ tell('try-again') }}</button></p>
      <p v-if="failed" class="p-2 text-signal" role="alert">{{ failed }} {{ tell('rows-beside') }} <button type="button" class="text-sea underline" @click="draw">{{ tell('try-again') }}</button></p>
    </div>
    <p v-if="drawing?.note" class="mt-2 text-sm text-signal" role="status">{{ drawing.note }}</p>
    <p v-else-if="said" class="mt-2 text-sm text-faint">{{ said }}</p>
    <figcaption class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-sm text-faint">
      <label v-if="shown.fits.length > 1">{{ tell('drawn-as') }}
        <select class="field" :value="shown.kind" :disabled="!!busy" @change="change({ kind: ($event.target as HTMLSelectElement).value as Chart['kind'] })">
          <option v-for="kind in shown.fits" :key="kind" :value="kind">{{ tell(`kind-${kind}`) }}</option>
        </select>
      </label>
      <label v-if="figures.length > 1 && chart.along !== null">{{ tell('of') }}
        <select class="field" :value="shown.figures.length === 1 ? shown.figures[0] : ''" :disabled="!!busy" @change="change({ figure: number($event) })">
          <option v-if="shown.figures.length > 1" value="" disabled>{{ tell('n-figures', { n: shown.figures.length }) }}</option>
          <option v-for="column in figures" :key="column.at" :value="column.at">{{ column.label }}</option>
        </select>
      </label>
      <label v-if="apart.length > 1 && shown.along !== null">{{ tell('by') }}
        <select class="field" :value="shown.along" :disabled="!!busy" @change="change({ along: number($event), colour: shown.along! })">
          <option v-for="column in apart" :key="column.at" :value="column.at">{{ column.label }}</option>
        </select>
      </label>
      <label v-if="counted && rows > 5">{{ tell('at-most') }}
        <input class="field w-16" type="number" min="1" max="100" :value="shown.top" :disabled="!!busy" @change="change({ top: Math.min(100, Math.max(1, number($event) || 1)) })">
      </label>
      <form class="flex min-w-0 grow basis-56 gap-2" @submit.prevent="say">
        <input v-model="words" class="field w-full min-w-0" maxlength="200" :aria-label="tell('say-how')" :placeholder="tell('say-how-example')">
        <button v-if="words.trim()" type="submit" class="text-sea underline" :disabled="!!busy">{{ tell('draw') }}</button>
      </form>
    </figcaption>
  </figure>
</template>

<style scoped>
.field {
  border: 1px solid var(--line);
  border-radius: 0.375rem;
  background: var(--sheet);
  color: var(--ink);
  padding: 0.25rem 0.5rem;
}
.chart :deep(svg) {
  display: block;
  max-width: 100%;
}
</style>
