<script setup lang="ts">
// One table: what is known of its columns, and what people say of them, edited in place.
import { computed, ref, watch } from 'vue'
import { api } from '../../api/client'
import type { CatalogColumn, CatalogTable } from '../../api/types'
import { useUnsaved } from '../../shared/useUnsaved'
import { Notice } from '../Notice'
import { useDoing } from '../../shared/useDoing'
import { say, sayOf } from '../../shared/say'

const props = defineProps<{
  /** The source's name. */
  source: string
  /** The table as the service tells it. */
  table: CatalogTable
}>()
const emit = defineEmits<{ changed: [table: CatalogTable] }>()

const text = ref('')
const editing = ref<string | null>(null)
const draft = ref({ text: '', unit: '', synonyms: '', codes: '', adds_up: true, exposed: true, personal: false })
const { busy: saving, problem, doing } = useDoing()
const input = 'w-full rounded border border-line bg-paper px-2 py-1.5 text-sm'

watch(() => props.table, (table) => { text.value = table.text; editing.value = null }, { immediate: true })
const opened = ref('')
const typed = () => text.value !== props.table.text || (editing.value !== null && JSON.stringify(draft.value) !== opened.value)
useUnsaved(typed)
const rows = computed(() => props.table.row_count === null ? sayOf('kind', props.table.kind) : counted(props.table.row_count, props.table.estimated))

function counted(rows: number, estimated: boolean): string {
  const said = say('n-rows', { n: rows })
  return estimated ? say('about-rows', { rows: said }) : said
}

function seen(column: CatalogColumn): string {
  if (column.personal) return say('personal-unread')
  if (column.samples.length) {
    const values = column.samples.slice(0, 6).join(', ')
    return column.complete ? values : say('such-as', { values })
  }
  if (column.low !== null) return say('from-to', { low: String(column.low), high: String(column.high) })
  return ''
}

function open(column: CatalogColumn): void {
  editing.value = column.name
  draft.value = {
    text: column.text, unit: column.unit ?? '', synonyms: column.synonyms.join(', '),
    codes: Object.entries(column.codes).map(([k, v]) => `${k} = ${v}`).join('\n'), adds_up: column.adds_up, exposed: column.exposed, personal: column.personal,
  }
  opened.value = JSON.stringify(draft.value)
}

async function save(what: string, edit: Record<string, unknown>): Promise<void> {
  await doing(what, async () => emit('changed', await api.editTable(props.source, props.table.name, edit)))
}

function saveColumn(column: CatalogColumn): Promise<void> {
  const d = draft.value
  const codes = Object.fromEntries(d.codes.split('\n').filter((l) => l.includes('=')).map((l) => [l.slice(0, l.indexOf('=')).trim(), l.slice(l.indexOf('=') + 1).trim()]))
  const edit: Record<string, unknown> = { text: d.text, unit: d.unit, synonyms: d.synonyms.split(',').map((s) => s.trim()).filter(Boolean), codes }
  if (d.adds_up !== column.adds_up) edit.adds_up = d.adds_up
  if (d.exposed !== column.exposed) edit.exposed = d.exposed
  if (d.personal !== column.personal) edit.personal = d.personal
  return save(column.name, { columns: { [column.name]: edit } })
}
</script>

<template>
  <div>
    <p class="text-sm text-faint">{{ sayOf('kind', table.kind) }} · {{ rows }} · {{ say('n-columns', { n: table.columns.length }) }}<template v-if="!table.exposed"> · <strong class="text-signal">{{ say('not-exposed') }}</strong></template></p>
    <Notice v-if="table.problem" class="mt-3" :title="say('scan-not-all')" :hint="table.problem" />
    <form class="mt-3 flex flex-wrap items-end gap-2" @submit.prevent="save('table', { text })">
      <label class="min-w-0 basis-full text-sm sm:flex-1 sm:basis-0">{{ say('what-it-holds') }}<input v-model="text" :class="[input, 'mt-1']" :placeholder="table.comment || say('what-it-holds-hint')" /></label>
      <button type="submit" :disabled="saving !== '' || text === table.text" class="rounded-lg border border-line bg-sheet px-3 py-1.5 text-sm disabled:opacity-50">{{ saving === 'table' ? say('saving') : say('save') }}</button>
      <button type="button" :disabled="saving !== ''" class="rounded-lg border border-line bg-sheet px-3 py-1.5 text-sm" @click="save('expose', { exposed: !table.exposed })">{{ table.exposed ? say('withhold-table') : say('expose-table') }}</button>
    </form>
    <Notice v-if="problem" class="mt-3" :title="problem.message" :hint="problem.hint" />
    <ul class="mt-4 divide-y divide-line rounded-lg border border-line bg-sheet">
      <li v-for="column in table.columns" :key="column.name" class="px-4 py-2.5">
        <button type="button" class="grid w-full gap-x-4 gap-y-0.5 text-left sm:grid-cols-[minmax(0,11rem)_minmax(0,8rem)_minmax(0,1fr)]" :aria-expanded="editing === column.name" @click="editing === column.name ? (editing = null) : open(column)">
          <span class="min-w-0 font-mono text-sm break-words" :class="column.exposed ? '' : 'text-faint line-through'">{{ column.name }}<span v-if="column.primary_key" class="ml-2 text-faint">{{ say('key') }}</span></span>
          <span class="min-w-0 truncate text-sm text-faint">{{ column.type.toLowerCase() }}</span>
          <span class="min-w-0 text-sm break-words">
            {{ column.text || column.comment }}<template v-if="column.unit || !column.adds_up"> ({{ [column.unit, column.adds_up ? '' : say('does-not-add-up')].filter(Boolean).join(', ') }})</template>
            <span class="block text-faint">{{ Object.keys(column.codes).length ? Object.entries(column.codes).map(([k, v]) => `${k} = ${v}`).join(', ') : seen(column) }}</span>
          </span>
        </button>
        <form v-if="editing === column.name" class="mt-3 grid gap-3 border-t border-line pt-3 sm:grid-cols-2" @submit.prevent="saveColumn(column)">
          <label class="text-sm sm:col-span-2">{{ say('what-it-means') }}<input v-model="draft.text" :class="[input, 'mt-1']" /></label>
          <label class="text-sm">{{ say('unit') }}<input v-model="draft.unit" :class="[input, 'mt-1']" /></label>
          <label class="text-sm">{{ say('also-called') }}<input v-model="draft.synonyms" :class="[input, 'mt-1']" /></label>
          <label class="text-sm sm:col-span-2">{{ say('codes') }}<textarea v-model="draft.codes" rows="3" :class="[input, 'mt-1 font-mono']" /></label>
          <div class="flex flex-wrap gap-x-6 gap-y-2 text-sm sm:col-span-2">
            <label class="flex items-center gap-2"><input v-model="draft.adds_up" type="checkbox" /> {{ say('adds-up') }}<span class="text-faint">{{ say('adds-up-hint') }}</span></label>
            <label class="flex items-center gap-2"><input v-model="draft.exposed" type="checkbox" /> {{ say('exposed') }}</label>
            <label class="flex items-center gap-2"><input v-model="draft.personal" type="checkbox" /> {{ say('personal') }}<span v-if="column.proposed_personal" class="text-faint">{{ say('proposed-by-scan') }}</span></label>
          </div>
          <div class="flex gap-2 sm:col-span-2">
            <button type="submit" :disabled="saving !== ''" class="rounded-lg bg-sea px-3 py-1.5 text-sm font-semibold text-onsea disabled:opacity-60">{{ saving === column.name ? say('saving') : say('save') }}</button>
            <button type="button" class="rounded-lg border border-line px-3 py-1.5 text-sm" @click="editing = null">{{ say('cancel') }}</button>
          </div>
        </form>
      </li>
    </ul>
  </div>
</template>
