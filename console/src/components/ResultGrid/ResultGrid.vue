<script setup lang="ts">
// The rows of an answer: figures to the right, units in the head, more on demand.
import { computed, ref } from 'vue'
import type { Cell, ResultTable } from '../../api/types'
import { isFigure, written } from '../../shared/figures'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The table of the answer. */
  table: ResultTable
  /** How many rows are shown at first. */
  first?: number
  /** How many rows there are elsewhere, of which these are the first. */
  of?: number
}>()
const cut = computed(() => (props.table.cut_by && !props.of ? say(`cut-by-${props.table.cut_by}`) : ''))
const told = computed(() => (props.of ? say('first-of', { n: props.table.row_count, rows: say('n-rows', { n: props.of }) }) : say('n-rows', { n: props.table.row_count })))

const STEP = 25
const shown = ref(props.first ?? STEP)
/** Column and direction that rows are sorted by here; the order of the answer where it is null. */
const by = ref<{ at: number; down: boolean } | null>(null)
const copied = ref('')

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

/** Up, down, and back to the order of the answer. */
function sort(at: number): void {
  if (by.value?.at !== at) by.value = { at, down: false }
  else by.value = by.value.down ? null : { at, down: true }
}

async function copy(): Promise<void> {
  const plain = (value: Cell) => (value === null ? '' : String(value).replace(/[\t\r\n]+/g, ' '))
  const lines = [props.table.columns.map((c) => c.name), ...sorted.value.map((r) => r.map(plain))]
  try {
    await navigator.clipboard.writeText(lines.map((l) => l.join('\t')).join('\n'))
    copied.value = say('copied-rows')
  } catch {
    copied.value = say('not-copied')
  }
}
const left = computed(() => props.table.rows.length - rows.value.length)
</script>

<template>
  <div>
    <p v-if="!table.rows.length" class="rounded-lg border border-line bg-sheet p-4 text-faint">{{ table.row_count ? say('rows-gone') : say('no-rows') }}</p>
    <div v-else class="goes-on overflow-x-auto rounded-lg border border-line" tabindex="0" role="region" :aria-label="say('rows')">
      <table class="w-full border-collapse text-sm">
        <thead>
          <tr class="border-b border-line text-left">
            <th
              v-for="(column, index) in table.columns"
              :key="index"
              scope="col"
              :aria-sort="by?.at === index ? (by.down ? 'descending' : 'ascending') : 'none'"
              class="px-3 py-2 align-bottom font-semibold"
              :class="isFigure(column) ? 'text-right' : ''"
            >
              <button type="button" class="inline-flex min-h-8 items-center font-semibold hover:text-sea" :class="isFigure(column) ? 'flex-row-reverse text-right' : 'text-left'" @click="sort(index)">
                <span>{{ column.name.replaceAll('_', ' ') }}</span><span aria-hidden="true" class="w-4 shrink-0 text-center text-sea">{{ by?.at === index ? (by.down ? '↓' : '↑') : '' }}</span>
              </button>
              <span v-if="column.unit" class="block text-xs font-normal text-faint">{{ column.unit }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, index) in rows" :key="index" class="border-b border-line/60 last:border-0 hover:bg-wash/60">
            <td
              v-for="(column, at) in table.columns"
              :key="at"
              class="max-w-96 px-3 py-1.5 align-top break-words"
              :class="isFigure(column) ? 'text-right whitespace-nowrap tabular-nums' : ''"
            >
              {{ written(row[at] ?? null, column) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="mt-2 flex flex-wrap items-center gap-3 text-sm text-faint">
      <span>{{ told }}{{ cut }}</span>
      <button v-if="left > 0" type="button" class="text-sea underline" @click="shown += STEP * 4">
        {{ say('show-more', { n: Math.min(left, STEP * 4) }) }}
      </button>
      <button v-if="table.rows.length" type="button" class="text-sea underline" @click="copy">{{ say('copy-rows') }}</button>
      <slot />
      <span role="status">{{ copied }}</span>
    </p>
  </div>
</template>
