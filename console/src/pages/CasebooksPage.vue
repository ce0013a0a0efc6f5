<script setup lang="ts">
// The casebooks that are for whoever looks, and the beginning of a new one.
import { ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api } from '../api/client'
import type { CasebookLine } from '../api/types'
import { Notice } from '../components/Notice'
import { instant } from '../shared/format'
import { language, say } from '../shared/say'
import { session } from '../shared/session'
import { useDoing } from '../shared/useDoing'

const books = ref<CasebookLine[] | null>(null)
const title = ref('')
const router = useRouter()
const { busy, problem, doing } = useDoing('load')
const { busy: making, problem: refused, doing: make } = useDoing()

async function load(): Promise<void> {
  await doing('load', async () => (books.value = await api.casebooks()))
}

async function begin(): Promise<void> {
  await make('make', async () => {
    const made = await api.makeCasebook(title.value, language.value)
    await router.push({ name: 'casebook', params: { id: made.id } })
  })
}

void load()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('casebooks') }}</h1>
    <p class="mt-1 max-w-[70ch] text-faint">{{ say('casebooks-what') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="books === null || busy" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <template v-if="books">
      <ul v-if="books.length" class="mt-6 divide-y divide-line border-y border-line">
        <li v-for="book in books" :key="book.id">
          <RouterLink :to="{ name: 'casebook', params: { id: book.id } }" class="flex flex-wrap items-baseline gap-x-6 gap-y-1 py-3 hover:text-sea">
            <span class="min-w-0 flex-1 basis-64 text-lg break-words">{{ book.title }}</span>
            <span class="text-sm text-faint">{{ [book.mine ? '' : book.owner, say('n-answers', { n: book.answers }), instant(book.changed_at)].filter(Boolean).join(' · ') }}</span>
          </RouterLink>
        </li>
      </ul>
      <p v-else class="mt-6 max-w-[70ch] text-faint">{{ say('no-casebooks') }}</p>
      <form v-if="session.me?.scopes.includes('ask')" class="mt-8 flex max-w-xl flex-wrap items-end gap-3" @submit.prevent="begin">
        <label class="min-w-0 grow basis-64 text-sm">{{ say('casebook-new') }}
          <input v-model.trim="title" required maxlength="120" autocomplete="off" :placeholder="say('casebook-example')" class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2" />
        </label>
        <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!making">{{ say('casebook-make') }}</button>
      </form>
      <p v-if="refused" class="mt-2 text-sm text-signal" role="alert">{{ refused.message }} {{ refused.hint }}</p>
    </template>
  </section>
</template>
