<script setup lang="ts">
// What a source holds: a list to search, and beside it one table with its columns, notes and neighbours.
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api } from '../api/client'
import type { Catalog, CatalogTable, Coverage } from '../api/types'
import { Neighbours } from '../components/Neighbours'
import { Notice } from '../components/Notice'
import { TableNotes } from '../components/TableNotes'
import { instant } from '../shared/format'
import { useDoing } from '../shared/useDoing'
import { say } from '../shared/say'

const props = defineProps<{
  /** The source's name, from the path. */
  name: string
  /** The table that is open, from the path. */
  table?: string
}>()

const router = useRouter()
const catalog = ref<Catalog | null>(null)
const coverage = ref<Coverage | null>(null)
const { problem, doing } = useDoing()
const search = ref('')

const found = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (catalog.value?.tables ?? []).filter((t) => {
    const text = [t.name, t.text, t.comment, ...t.synonyms, ...t.columns.flatMap((c) => [c.name, c.text, ...c.synonyms])].join(' ').toLowerCase()
    return words.every((w) => text.includes(w))
  })
})
const shown = computed(() => catalog.value?.tables.find((t) => t.name === props.table) ?? (props.table ? null : (found.value[0] ?? null)))

async function load(): Promise<void> {
  await doing('load', async () => {
    catalog.value = await api.catalog(props.name)
    coverage.value = await api.coverage(props.name)
  })
}

function open(name: string): void {
  void router.push({ name: 'catalog', params: { name: props.name, table: name } })
}

async function changed(table: CatalogTable): Promise<void> {
  if (catalog.value) catalog.value.tables = catalog.value.tables.map((t) => (t.name === table.name ? table : t))
  await doing('count', async () => (coverage.value = await api.coverage(props.name)))
}

void load()
</script>

<template>
  <section class="pt-10">
    <p class="text-sm text-faint"><RouterLink :to="{ name: 'sources' }" class="underline">{{ say('sources') }}</RouterLink> / {{ name }}</p>
    <div class="mt-1 flex flex-wrap items-baseline justify-between gap-x-6">
      <h1 class="text-2xl font-bold tracking-tight">{{ say('catalog') }}</h1>
      <p v-if="catalog" class="text-sm text-faint">
        {{ say('version-scanned', { version: catalog.version, at: instant(catalog.scanned_at) }) }}<template v-if="coverage"> · {{ say('columns-described', { n: coverage.described, all: coverage.columns }) }}</template>
      </p>
    </div>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="!catalog" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <div v-else class="mt-6 grid gap-8 md:grid-cols-[15rem_minmax(0,1fr)]">
      <nav :aria-label="say('tables')">
        <label class="text-sm">{{ say('search-catalog') }}<input v-model="search" type="search" class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2" /></label>
        <p class="mt-2 text-sm text-faint">{{ say('n-of', { n: found.length, all: catalog.tables.length }) }}</p>
        <ul class="mt-1 max-h-40 overflow-y-auto md:max-h-[70vh]">
          <li v-for="t in found" :key="t.name">
            <button type="button" class="block w-full truncate rounded px-2 py-1 text-left text-sm hover:bg-wash" :class="[t.name === shown?.name ? 'bg-wash font-semibold' : '', t.exposed ? '' : 'text-faint line-through']" :title="t.name" @click="open(t.name)">{{ t.name }}</button>
          </li>
        </ul>
      </nav>
      <div v-if="shown" class="min-w-0">
        <h2 class="text-xl font-bold break-words">{{ shown.name }}</h2>
        <Neighbours class="mt-3" :table="shown" :tables="catalog.tables" @open="open" />
        <TableNotes class="mt-3" :source="name" :table="shown" @changed="changed" />
      </div>
      <p v-else class="text-faint">{{ catalog.tables.length ? say('nothing-fits') : say('no-tables') }}</p>
    </div>
  </section>
</template>
