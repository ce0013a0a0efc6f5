<script setup lang="ts">
// One casebook: its text with the figures of its answers, what has moved, and what its owner can do with it.
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { computed, onUnmounted, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api } from '../api/client'
import type { Casebook, CasebookAnswer, CasebookVersion } from '../api/types'
import { CasebookText } from '../components/CasebookText'
import { KeptAnswer } from '../components/KeptAnswer'
import { ShowIt } from '../components/ShowIt'
import { Notice } from '../components/Notice'
import { instant } from '../shared/format'
import { say } from '../shared/say'
import { session } from '../shared/session'
import { dark } from '../shared/theme'
import { entitle } from '../shared/title'
import { useDoing } from '../shared/useDoing'

const props = defineProps<{
  /** The casebook's id, from the path. */
  id: string
}>()

const AGAIN_MS = 1200
const route = useRoute()
const router = useRouter()
const book = ref<Casebook | null>(null)
const versions = ref<CasebookVersion[] | null>(null)
const writing = ref(false)
/** What is asked for beneath the head: whom to mail it to, who may read it. */
const form = ref<'' | 'mail' | 'readers'>('')
const to = ref('')
const readers = ref('')
const told = ref('')
const { busy, problem, doing } = useDoing('load')
const { busy: acting, problem: refused, doing: act } = useDoing()

/** The number of an earlier version that is looked at; none: the newest. */
const then = computed(() => (typeof route.query.version === 'string' ? Number(route.query.version) : null))
const kept = computed(() => new Map((book.value?.kept ?? []).map((one) => [one.name, one])))
const mine = computed(() => !!book.value?.mine && then.value === null && !!session.me?.scopes.includes('ask'))
/** For how many days it may be shown to people without an account: as every source of it lets it. */
const showDays = computed(() => {
  const names = new Set((book.value?.kept ?? []).filter((one) => one.answer.state === 'shown').map((one) => one.answer.source))
  return names.size ? Math.min(...[...names].map((name) => session.sources.find((s) => s.name === name)?.shared_days ?? 0)) : 0
})
/** Kept, and nowhere in the text as a whole. */
const aside = computed(() => {
  const stands = new Set(book.value?.blocks.map((block) => block.name))
  return (book.value?.kept ?? []).filter((one) => !stands.has(one.name))
})
const waiting = computed(() => (book.value?.kept ?? []).filter((one) => one.under_way).length)
/** Answers of which it is known whether they have moved. */
const known = computed(() => (book.value?.kept ?? []).filter((one) => typeof one.answer.moved === 'boolean').length)
const moved = computed(() => (book.value?.kept ?? []).filter((one) => one.answer.moved).length)
const missing = computed(() => [...new Set(book.value?.blocks.flatMap((block) => block.missing))])

async function load(): Promise<void> {
  await doing('load', async () => {
    book.value = await api.casebook(props.id, then.value)
    entitle(book.value.title)
  })
}

async function does(what: string, work: () => Promise<Casebook>, said = ''): Promise<void> {
  told.value = ''
  const done = await act(what, async () => (book.value = await work()))
  if (!done) return
  form.value = ''
  told.value = said
  if (versions.value) versions.value = await api.casebookVersions(props.id)
}

async function save(title: string, text: string, drop: string[]): Promise<void> {
  await does('save', () => api.writeCasebook(props.id, { version: book.value!.version, title, text, drop }))
  if (!refused.value) writing.value = false
}

const run = (way: 'again' | 'anew', names: string[] = []): Promise<void> => does('run', () => api.runCasebook(props.id, way, names))

async function mail(): Promise<void> {
  told.value = ''
  if (await act('mail', () => api.sendCasebook(props.id, to.value))) {
    told.value = say('casebook-mailed', { to: to.value })
    form.value = ''
  }
}

async function remove(): Promise<void> {
  if (!window.confirm(say('casebook-remove-sure', { title: book.value!.title }))) return
  if (await act('remove', () => api.removeCasebook(props.id))) await router.push({ name: 'casebooks' })
}

async function history(): Promise<void> {
  if (versions.value) versions.value = null
  else await act('history', async () => (versions.value = await api.casebookVersions(props.id)))
}

function ask(what: 'mail' | 'readers'): void {
  form.value = form.value === what ? '' : what
  readers.value = book.value?.readers.join(', ') ?? ''
}

const picture = (one: CasebookAnswer): string => api.pictureOf(props.id, one.name, then.value ?? book.value!.version, one.answer.inquiry, dark.value)

// What is asked again comes in as it comes.
let timer = 0
watch(waiting, (count) => {
  window.clearTimeout(timer)
  if (count) timer = window.setTimeout(look, AGAIN_MS)
})
async function look(): Promise<void> {
  if (!writing.value && !acting.value) await load()
  if (waiting.value && !problem.value) timer = window.setTimeout(look, AGAIN_MS)
}
onUnmounted(() => window.clearTimeout(timer))
void load()
</script>

<template>
  <section class="pt-10">
    <Notice v-if="problem" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="!book" class="beats text-faint">{{ say('loading') }}</p>
    <template v-if="book">
      <header>
        <p class="text-sm"><RouterLink :to="{ name: 'casebooks' }" class="text-sea underline">{{ say('casebooks') }}</RouterLink></p>
        <h1 class="mt-1 max-w-[40ch] text-2xl font-bold tracking-tight break-words">{{ book.title }}</h1>
        <p class="mt-1 text-sm text-faint">
          {{ [book.owner, say('casebook-version', { n: book.version }), instant(book.changed_at), book.readers.includes('*') ? say('casebook-for-all') : book.readers.length ? say('casebook-for', { names: book.readers.join(', ') }) : book.mine ? say('casebook-for-nobody') : ''].filter(Boolean).join(' · ') }}
        </p>
        <p v-if="then !== null" class="mt-3 text-signal">
          {{ say('casebook-then', { n: then }) }} <RouterLink :to="{ name: 'casebook', params: { id } }" class="text-sea underline">{{ say('casebook-now') }}</RouterLink>
        </p>
        <div v-if="!writing" class="mt-4 flex flex-wrap items-baseline gap-x-5 gap-y-2 text-sm">
          <template v-if="mine">
            <button type="button" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!acting || !!waiting || !book.kept.length" @click="run('again')">{{ say('casebook-again') }}</button>
            <button type="button" class="text-sea underline disabled:opacity-60" :title="say('casebook-anew-what')" :disabled="!!acting || !!waiting || !book.kept.length" @click="run('anew')">{{ say('casebook-anew') }}</button>
            <button type="button" class="text-sea underline" @click="writing = true">{{ say('casebook-write') }}</button>
          </template>
          <Menu v-if="then === null" as="div" class="relative">
            <MenuButton class="text-sea underline">{{ say('take-away') }}</MenuButton>
            <MenuItems class="fixed inset-x-4 bottom-4 z-20 rounded-lg border border-line bg-sheet py-1 text-ink shadow-lg sm:absolute sm:inset-x-auto sm:top-full sm:bottom-auto sm:left-0 sm:mt-1 sm:w-64">
              <MenuItem v-for="one in (['html', 'md'] as const)" :key="one" v-slot="{ active }">
                <a :href="api.casebookFile(id, one)" download class="flex justify-between gap-4 px-3 py-2" :class="active ? 'bg-wash' : ''">{{ say(`form-${one}`) }}<span class="text-faint">.{{ one }}</span></a>
              </MenuItem>
            </MenuItems>
          </Menu>
          <template v-if="mine">
            <button type="button" class="text-sea underline" :aria-expanded="form === 'mail'" @click="ask('mail')">{{ say('casebook-mail') }}</button>
            <button type="button" class="text-sea underline" :aria-expanded="form === 'readers'" @click="ask('readers')">{{ say('casebook-readers') }}</button>
            <ShowIt v-if="showDays" :of="{ casebook: id }" :most="showDays" />
          </template>
          <button v-if="book.mine" type="button" class="text-sea underline" :aria-expanded="!!versions" @click="history">{{ say('casebook-history') }}</button>
          <button v-if="mine" type="button" class="text-faint underline" @click="remove">{{ say('casebook-remove') }}</button>
        </div>
        <form v-if="form" class="mt-4 flex max-w-2xl flex-wrap items-end gap-3 rounded-lg border border-line bg-sheet p-4 text-sm" @submit.prevent="form === 'mail' ? mail() : does('readers', () => api.writeCasebook(id, { version: book!.version, readers: readers.split(/\s*[,;]\s*/).filter(Boolean) }))" @keydown.esc="form = ''">
          <label v-if="form === 'mail'" class="min-w-0 grow basis-64">{{ say('mail-to') }}
            <input v-model.trim="to" type="email" required maxlength="254" autocomplete="off" spellcheck="false" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
          </label>
          <label v-else class="min-w-0 grow basis-64">{{ say('casebook-readers-who') }}
            <input v-model.trim="readers" maxlength="2000" autocomplete="off" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
          </label>
          <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!acting">{{ say(form === 'mail' ? 'mail-send' : 'casebook-save') }}</button>
          <button type="button" class="py-2 text-faint underline" @click="form = ''">{{ say('cancel') }}</button>
        </form>
        <p v-if="refused" class="mt-3 text-sm text-signal" role="alert">{{ refused.message }} {{ refused.hint }}</p>
        <p v-else-if="told" class="mt-3 text-sm text-faint" role="status">{{ told }}</p>
        <ol v-if="versions" class="mt-4 max-w-2xl rounded-lg border border-line bg-sheet p-4 text-sm" :aria-label="say('casebook-history')">
          <li v-for="one in versions" :key="one.version" class="flex flex-wrap gap-x-4 gap-y-1 py-1">
            <RouterLink :to="{ name: 'casebook', params: { id }, query: { version: one.version } }" class="w-8 text-right text-sea tabular-nums underline">{{ one.version }}</RouterLink>
            <span class="tabular-nums">{{ instant(one.at) }}</span><span>{{ say(`casebook-was-${one.what}`) }}</span>
            <span class="min-w-0 break-words text-faint">{{ [one.by, one.names.join(', ')].filter(Boolean).join(' · ') }}</span>
            <button v-if="mine && one.version !== book.version" type="button" class="text-sea underline" :disabled="!!acting" @click="does('restore', () => api.restoreCasebook(id, one.version))">{{ say('casebook-restore') }}</button>
          </li>
        </ol>
        <p class="mt-3 min-h-6 text-sm" role="status">
          <span v-if="waiting" class="beats text-faint">{{ say('casebook-waiting', { n: waiting }) }}</span>
          <span v-else-if="book.run_at && then === null && known" :class="moved ? 'text-signal' : 'text-faint'">{{ say(moved ? 'casebook-moved' : 'casebook-stayed', { n: moved, of: known, at: instant(book.run_at) }) }}</span>
        </p>
      </header>
      <CasebookText v-if="writing" :casebook="book" :busy="!!acting" @save="save" @close="writing = false" />
      <div v-else class="mt-4 max-w-[56rem]">
        <ul v-if="mine && (missing.length || Object.keys(book.typed).length)" class="mb-6 grid gap-1 border-l-2 border-signal pl-4 text-sm">
          <li v-for="one in missing" :key="one">{{ say('casebook-missing', { said: one }) }}</li>
          <li v-for="(figures, name) in book.typed" :key="name">{{ say('casebook-typed', { figures: figures.join(', '), name: String(name) }) }}</li>
        </ul>
        <template v-for="(block, index) in book.blocks" :key="index">
          <!-- eslint-disable-next-line vue/no-v-html -- the service lets nothing through that does anything; its policy would stop it -->
          <div v-if="!block.name" class="prose-text" v-html="block.html"></div>
          <KeptAnswer v-else-if="kept.get(block.name)" class="my-6" :answer="kept.get(block.name)!.answer" :shows="block.shows" :name="mine ? block.name : ''" :picture="picture(kept.get(block.name)!)">
            <button v-if="mine && kept.get(block.name)!.answer.mine" type="button" class="text-sea underline" :disabled="!!acting || !!waiting" @click="run('again', [block.name])">{{ say('casebook-this-again') }}</button>
          </KeptAnswer>
          <p v-else class="my-6 text-signal">[={{ block.name }}]</p>
        </template>
        <p v-if="!book.blocks.length && !book.kept.length" class="max-w-[70ch] text-faint">{{ say(mine ? 'casebook-empty' : 'casebook-empty-yet') }}</p>
        <template v-if="aside.length">
          <h2 class="mt-10 border-b border-line pb-1 text-sm font-semibold text-faint">{{ say('casebook-aside') }}</h2>
          <KeptAnswer v-for="one in aside" :key="one.name" class="my-6" :answer="one.answer" :name="mine ? one.name : ''" :picture="picture(one)" />
        </template>
      </div>
      <p v-if="busy === 'load'" class="sr-only">{{ say('loading') }}</p>
    </template>
  </section>
</template>
