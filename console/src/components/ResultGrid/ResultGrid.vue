<script setup lang="ts">
// The rows of an answer: figures to the right, units in the head, more on demand.
import { computed, ref } from 'vue'
import type { ResultTable } from '../../api/types'
import { cell, count, isFigure } from '../../shared/format'

const props = defineProps<{
  /** The table of the answer. */
  table: ResultTable
}>()

const STEP = 25
const shown = ref(STEP)
const rows = computed(() => props.table.rows.slice(0, shown.value))
const left = computed(() => props.table.rows.length - rows.value.length)
</script>

<template>
  <div>
    <p v-if="!table.rows.length" class="rounded-lg border border-line bg-sheet p-4 text-faint">No rows came back.</p>
    <div v-else class="overflow-x-auto rounded-lg border border-line bg-sheet" tabindex="0" role="region" aria-label="Result">
      <table class="w-full border-collapse text-sm">
        <thead>
          <tr class="border-b border-line text-left">
            <th
              v-for="(column, index) in table.columns"
              :key="index"
              scope="col"
              class="px-3 py-2 align-bottom font-semibold"
              :class="isFigure(column) ? 'text-right' : ''"
            >
              {{ column.name.replaceAll('_', ' ') }}
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
              {{ cell(row[at] ?? null, column) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="mt-2 flex flex-wrap items-center gap-3 text-sm text-faint">
      <span>{{ count(table.row_count, 'row') }}{{ table.cut_by ? `, cut by the limit on ${table.cut_by}` : '' }}</span>
      <button v-if="left > 0" type="button" class="text-sea underline" @click="shown += STEP * 4">
        Show {{ Math.min(left, STEP * 4) }} more
      </button>
    </p>
  </div>
</template>
