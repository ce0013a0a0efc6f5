<script setup lang="ts">
// The rows of an answer: figures to the right, units in the head, more on demand. Columns are sorted, made wider and
// hidden; a cell is chosen by a click or the arrow keys and copied.
import { computed, nextTick, ref } from 'vue'
import type { Cell, ResultColumn, ResultTable } from '../../api/types'
import { isFigure, together, written } from '../../shared/figures'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The table of the answer. */
  table: ResultTable
  /** How many rows are shown at first. */
  first?: number
  /** How many rows there are elsewhere, of which these are the first. */
  of?: number
  /** Places of figures that are parts of one whole. */
  addsUp?: number[]
}>()
const cut = computed(() => (props.table.cut_by && !props.of ? say(`cut-by-${props.table.cut_by}`) : ''))
const told = computed(() => (props.of ? say('first-of', { n: props.table.row_count, rows: say('n-rows', { n: props.of }) }) : say('n-rows', { n: props.table.row_count })))

const STEP = 25
const [NARROWEST, WIDEST, NUDGE] = [48, 900, 16]
const shown = ref(props.first ?? STEP)
/** Column and direction that rows are sorted by here; the order of the answer where it is null. */
const by = ref<{ at: number; down: boolean } | null>(null)
const hidden = ref(new Set<number>())
/** In pixels, of columns that somebody has drawn wider or narrower. */
const widths = ref<Record<number, number>>({})
/** The cell that is chosen, by its row as shown and its column. */
const here = ref<{ row: number; at: number } | null>(null)
const copied = ref('')
const grid = ref<HTMLElement>()

const columns = computed(() => props.table.columns.map((column, at) => ({ column, at })).filter(({ at }) => !hidden.value.has(at)))
/** For true and false. */
const words = computed<[string, string]>(() => [say('yes'), say('no')])
const name = (column: ResultColumn): string => column.name.replaceAll('_', ' ')

function order(a: Cell, b: Cell, figure: boolean): number {
  if (a === null || b === null) return Number(a === null) - Number(b === null)
  return figure ? Number(a) - Number(b) : String(a).localeCompare(String(b), 'en', { numeric: true })
}

const sorted = computed(() => {
  if (!by.value) return props.table.rows
  const { at, down } = by.value
  const figure = isFigure(props.table.columns[at]!)
  return [...props.table.rows].sort((a, b) => (down ? -1 : 1) * order(a[at] ?? null, b[at] ?? null, figure))
})
const rows = computed(() => sorted.value.slice(0, shown.value))
const left = computed(() => props.table.rows.length - rows.value.length)
/** What the figures come to, where all rows are there and they are parts of one whole. */
const sums = computed(() => {
  const of = (props.addsUp ?? []).filter((at) => !hidden.value.has(at) && at > 0)
  if (props.table.cut_by || props.of || props.table.rows.length < 2) return null
  const found = new Map(of.map((at) => [at, together(props.table.rows.map((row) => row[at] ?? null), props.table.columns[at]!)] as const))
  return found.size && [...found.values()].every((sum) => sum !== null) ? found : null
})

/** Up, down, and back to the order of the answer. */
function sort(at: number): void {
  here.value = null
  if (by.value?.at !== at) by.value = { at, down: false }
  else by.value = by.value.down ? null : { at, down: true }
}

function hide(at: number): void {
  here.value = null
  hidden.value = new Set([...hidden.value, at])
}

/** Text that says which cell it is, for whoever does not see it. */
const where = computed(() => {
  const column = here.value && props.table.columns[here.value.at]
  if (!here.value || !column) return ''
  return say('cell-at', { row: String(here.value.row + 1), column: name(column), text: said(rows.value[here.value.row]?.[here.value.at] ?? null, column) })
})

function said(value: Cell, column: ResultColumn): string {
  return value === null ? say('no-value') : value === '' ? say('empty-text') : written(value, column, words.value)
}

async function put(text: string, done: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text)
    copied.value = done
  } catch {
    copied.value = say('not-copied')
  }
}

function copy(): Promise<void> {
  const plain = (value: Cell): string => (value === null ? '' : String(value).replace(/[\t\r\n]+/g, ' '))
  const lines = [columns.value.map(({ column }) => column.name), ...sorted.value.map((row) => columns.value.map(({ at }) => plain(row[at] ?? null)))]
  return put(lines.map((line) => line.join('\t')).join('\n'), say('copied-rows'))
}

function copyCell(): Promise<void> | undefined {
  if (!here.value) return undefined
  const value = rows.value[here.value.row]?.[here.value.at] ?? null
  const text = value === null ? '' : String(value)
  return put(text, say('copied-cell', { text: text.length > 40 ? `${text.slice(0, 39)}…` : text }))
}

const MOVES: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }

/** Arrows go from cell to cell, Enter and the keys for copying copy, Escape lets go. */
async function press(event: KeyboardEvent): Promise<void> {
  if (event.target !== grid.value) return
  const copies = event.key === 'Enter' || (event.key === 'c' && (event.ctrlKey || event.metaKey) && !String(getSelection()))
  if (copies && here.value) {
    event.preventDefault()
    await copyCell()
    return
  }
  if (event.key === 'Escape') here.value = null
  const move = MOVES[event.key]
  if (!move || event.ctrlKey || event.metaKey || event.altKey) return
  event.preventDefault()
  const places = columns.value.map(({ at }) => at)
  const column = here.value ? places.indexOf(here.value.at) + move[1] : 0
  const row = here.value ? here.value.row + move[0] : 0
  here.value = { row: Math.min(rows.value.length - 1, Math.max(0, row)), at: places[Math.min(places.length - 1, Math.max(0, column))]! }
  await nextTick()
  grid.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
}

function widen(at: number, width: number): void {
  widths.value = { ...widths.value, [at]: Math.round(Math.min(WIDEST, Math.max(NARROWEST, width))) }
}

const widthOf = (handle: EventTarget | null): number => (handle as HTMLElement).closest('th')?.getBoundingClientRect().width ?? NARROWEST

function drag(event: PointerEvent, at: number): void {
  const handle = event.currentTarget as HTMLElement
  const [from, width] = [event.clientX, widthOf(handle)]
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (moved) => widen(at, width + moved.clientX - from)
  handle.onpointerup = handle.onpointercancel = () => (handle.onpointermove = null)
}

function nudge(event: KeyboardEvent, at: number): void {
  const by = { ArrowLeft: -NUDGE, ArrowRight: NUDGE }[event.key]
  if (by === undefined) return
  event.preventDefault()
  widen(at, widthOf(event.currentTarget) + by)
}

function sized(at: number): Record<string, string> | undefined {
  const width = widths.value[at]
  return width === undefined ? undefined : { width: `${width}px`, minWidth: `${width}px`, maxWidth: `${width}px` }
}
</script>

<template>
  <div>
    <p v-if="!table.rows.length" class="rounded-lg border border-line bg-sheet p-4 text-faint">{{ table.row_count ? say('rows-gone') : say('no-rows') }}</p>
    <div v-else ref="grid" class="goes-on overflow-x-auto rounded-lg border border-line" tabindex="0" role="region" :aria-label="say('rows')" @keydown="press">
      <table class="w-full border-separate border-spacing-0 text-sm">
        <thead>
          <tr class="text-left">
            <th
              v-for="({ column, at }, place) in columns"
              :key="at"
              scope="col"
              :aria-sort="by?.at === at ? (by.down ? 'descending' : 'ascending') : 'none'"
              class="group/head relative border-b border-line px-3 py-2 align-bottom font-semibold"
              :class="[isFigure(column) ? 'text-right' : '', place ? '' : 'stays']"
              :style="sized(at)"
            >
              <button type="button" class="inline-flex min-h-8 max-w-full items-center font-semibold hover:text-sea" :class="isFigure(column) ? 'flex-row-reverse text-right' : 'text-left'" @click="sort(at)">
                <span class="min-w-0 break-words">{{ name(column) }}</span><span aria-hidden="true" class="w-4 shrink-0 text-center text-sea">{{ by?.at === at ? (by.down ? '↓' : '↑') : '' }}</span>
              </button>
              <span v-if="column.unit" class="block text-xs font-normal text-faint">{{ column.unit }}</span>
              <button
                v-if="columns.length > 1" type="button" :aria-label="say('hide-column', { name: name(column) })" :title="say('hide-column', { name: name(column) })"
                class="absolute top-0 right-1.5 rounded px-1 text-xs leading-5 text-faint opacity-0 group-hover/head:opacity-100 hover:text-sea focus-visible:opacity-100" @click="hide(at)"
              >×</button>
              <span
                role="separator" tabindex="0" aria-orientation="vertical" :aria-label="say('wider', { name: name(column) })" :aria-valuenow="widths[at]"
                class="absolute inset-y-1 right-0 w-1.5 cursor-col-resize touch-none rounded hover:bg-sea/40 focus-visible:bg-sea" @pointerdown.prevent="drag($event, at)" @keydown="nudge($event, at)"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, index) in rows" :key="index" class="group/row">
            <td
              v-for="({ column, at }, place) in columns"
              :key="at"
              :dir="isFigure(column) ? undefined : 'auto'"
              :aria-selected="here?.row === index && here.at === at ? 'true' : undefined"
              class="max-w-96 border-b border-line/60 px-3 py-1.5 align-top break-words group-last/row:border-b-0 group-hover/row:bg-wash/60"
              :class="[isFigure(column) ? 'text-right whitespace-nowrap tabular-nums' : '', place ? '' : 'stays', here?.row === index && here.at === at ? 'outline-2 -outline-offset-2 outline-sea' : '']"
              :style="sized(at)"
              @click="here = { row: index, at }"
            >
              <span v-if="(row[at] ?? null) === null" class="text-faint" :title="say('no-value')">–</span>
              <span v-else-if="row[at] === ''" class="text-faint" :title="say('empty-text')">“”</span>
              <span v-else :class="isFigure(column) || (here?.row === index && here.at === at) ? '' : 'line-clamp-4'">{{ written(row[at]!, column, words) }}</span>
            </td>
          </tr>
        </tbody>
        <tfoot v-if="sums && !left">
          <tr class="font-semibold">
            <td v-for="({ column, at }, place) in columns" :key="at" class="border-t border-line px-3 py-1.5" :class="[isFigure(column) ? 'text-right whitespace-nowrap tabular-nums' : '', place ? '' : 'stays']">
              {{ sums.has(at) ? written(sums.get(at)!, column) : place ? '' : say('sums') }}
            </td>
          </tr>
        </tfoot>
      </table>
    </div>
    <p class="mt-2 flex flex-wrap items-center gap-3 text-sm text-faint">
      <span>{{ told }}{{ cut }}</span>
      <button v-if="left > 0" type="button" class="text-sea underline" @click="shown += STEP * 4">
        {{ say('show-more', { n: Math.min(left, STEP * 4) }) }}
      </button>
      <span v-if="hidden.size">{{ say('hidden-columns', { n: hidden.size }) }} <button type="button" class="text-sea underline" @click="hidden = new Set()">{{ say('show-them') }}</button></span>
      <button v-if="table.rows.length" type="button" class="text-sea underline" @click="copy">{{ say('copy-rows') }}</button>
      <button v-if="here" type="button" class="text-sea underline" @click="copyCell">{{ say('copy-cell') }}</button>
      <slot />
      <span role="status">{{ copied }}</span>
      <span class="sr-only" role="status">{{ where }}</span>
    </p>
  </div>
</template>

<style scoped>
/* The column that says which row it is stays in sight while the others go by. */
.stays {
  position: sticky;
  left: 0;
  z-index: 1;
  max-width: min(24rem, 45vw);
  background: var(--sheet);
}
tbody tr:hover > .stays {
  background: color-mix(in oklab, var(--wash) 60%, var(--sheet));
}
</style>
