<script setup lang="ts">
// A table and those that it joins with, drawn as a small graph: what it points at right, what points at it left.
import { computed } from 'vue'
import type { CatalogTable } from '../../api/types'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The table in the middle. */
  table: CatalogTable
  /** All tables, to find those that point at it. */
  tables: CatalogTable[]
}>()
const emit = defineEmits<{ open: [name: string] }>()

const MOST = 7
const ROW = 34
interface Side { name: string; by: string; declared: boolean }

const right = computed<Side[]>(() =>
  props.table.foreign_keys.map((k) => ({ name: k.table, by: k.columns.join(', '), declared: k.declared_by !== '' })),
)
const left = computed<Side[]>(() =>
  props.tables.flatMap((t) =>
    t.foreign_keys.filter((k) => k.table === props.table.name && t.name !== props.table.name).map((k) => ({ name: t.name, by: k.columns.join(', '), declared: k.declared_by !== '' })),
  ),
)
const height = computed(() => Math.max(1, Math.min(MOST, Math.max(left.value.length, right.value.length))) * ROW + 24)
const middle = computed(() => height.value / 2)

function place(index: number, count: number): number {
  return middle.value + (index - (Math.min(count, MOST) - 1) / 2) * ROW
}
function short(text: string, most = 20): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text
}
</script>

<template>
  <svg :viewBox="`0 0 640 ${height}`" class="w-full max-w-2xl" role="img" :aria-label="say('joins-with', { table: table.name, others: [...left, ...right].map((s) => s.name).join(', ') || say('nothing') })">
    <g v-for="(side, index) in left.slice(0, MOST)" :key="`l${index}`">
      <path :d="`M170 ${place(index, left.length)} C 215 ${place(index, left.length)} 215 ${middle} 250 ${middle}`" fill="none" class="stroke-line" stroke-width="1.6" :stroke-dasharray="side.declared ? '5 4' : ''" />
      <a href="#" @click.prevent="emit('open', side.name)">
        <text x="164" :y="place(index, left.length) + 1" text-anchor="end" class="fill-sea text-[13px]">{{ short(side.name) }}</text>
        <text x="164" :y="place(index, left.length) + 13" text-anchor="end" class="fill-faint text-[10px]">{{ short(side.by, 26) }}</text>
      </a>
    </g>
    <g v-for="(side, index) in right.slice(0, MOST)" :key="`r${index}`">
      <path :d="`M390 ${middle} C 425 ${middle} 425 ${place(index, right.length)} 470 ${place(index, right.length)}`" fill="none" class="stroke-line" stroke-width="1.6" :stroke-dasharray="side.declared ? '5 4' : ''" />
      <a href="#" @click.prevent="emit('open', side.name)">
        <text x="476" :y="place(index, right.length) + 1" class="fill-sea text-[13px]">{{ short(side.name) }}</text>
        <text x="476" :y="place(index, right.length) + 13" class="fill-faint text-[10px]">{{ short(side.by, 26) }}</text>
      </a>
    </g>
    <rect x="250" :y="middle - 17" width="140" height="34" rx="6" class="fill-sheet stroke-sea" stroke-width="1.6" />
    <text x="320" :y="middle + 5" text-anchor="middle" class="fill-ink text-[13px] font-semibold">{{ short(table.name, 18) }}</text>
    <text v-if="left.length > MOST" x="164" :y="height - 2" text-anchor="end" class="fill-faint text-[10px]">{{ say('and-more', { n: left.length - MOST }) }}</text>
  </svg>
</template>
