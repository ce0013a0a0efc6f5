<script setup lang="ts">
// What is watched: when it is asked next, what came the last times, and its end.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../api/client'
import type { Watch } from '../api/types'
import { Notice } from '../components/Notice'
import { say } from '../shared/say'
import { session } from '../shared/session'
import { useDoing } from '../shared/useDoing'

const watches = ref<Watch[] | null>(null)
const runs = ref<Record<string, Watch>>({})
const { busy, problem, doing } = useDoing('load')

async function load(): Promise<void> {
  await doing('load', async () => (watches.value = await api.watches()))
}

async function change(work: () => Promise<unknown>, id: string): Promise<void> {
  await doing(`change ${id}`, async () => {
    await work()
    watches.value = await api.watches()
    if (id in runs.value) runs.value[id] = await api.readWatch(id)
  })
}

async function show(id: string): Promise<void> {
  if (id in runs.value) {
    delete runs.value[id]
    return
  }
  await doing(`runs ${id}`, async () => {
    runs.value[id] = await api.readWatch(id)
  })
}

const at = (time: string): string => new Date(time).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })
/** When it is asked next, or why no more, and what came last. */
function stands(watch: Watch): string {
  const last = watch.runs[0]
  const next = watch.next_at ? say('watch-next', { time: at(watch.next_at) }) : watch.why_ended
  return [next, last ? say('watch-last', { time: at(last.due_at), came: say(`came-${last.outcome ?? 'waiting'}`) }) : ''].filter(Boolean).join(' · ')
}
const own = (watch: Watch): boolean => watch.owner === session.me?.person && !!session.me?.scopes.includes('ask')

void load()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('watches') }}</h1>
    <p class="mt-1 max-w-[70ch] text-faint">{{ say('watches-what') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="watches === null" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <p v-if="watches && !watches.length" class="mt-6 max-w-[70ch] text-faint">{{ say('no-watches') }}</p>
    <ul v-if="watches?.length" class="mt-6 grid gap-4" :aria-label="say('watches')">
      <li v-for="watch in watches" :key="watch.id" class="min-w-0 rounded-lg border border-line bg-sheet p-5">
        <div class="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1">
          <h2 class="min-w-0 text-lg font-semibold break-words">
            <RouterLink :to="{ name: 'leaf', params: { id: watch.inquiry } }" class="hover:underline">{{ watch.title }}</RouterLink>
          </h2>
          <span class="text-sm" :class="watch.state === 'on' ? 'text-sea' : 'text-faint'">{{ say(`watch-is-${watch.state}`) }}</span>
        </div>
        <p class="mt-1 text-sm text-faint">
          {{ [`${watch.when} (${watch.zone})`, `${say(`tell-${watch.tell}`)}${watch.line ? ` ${watch.line}` : ''}`, watch.to.join(', '), own(watch) ? '' : watch.owner].filter(Boolean).join(' · ') }}
        </p>
        <p class="text-sm text-faint">
          {{ stands(watch) }}
        </p>
        <p v-if="watch.runs[0]?.why" class="text-sm text-signal">{{ watch.runs[0].why }}</p>
        <p class="mt-3 flex flex-wrap gap-x-4 gap-y-2 text-sm">
          <button type="button" class="text-sea underline" :aria-expanded="watch.id in runs" :disabled="!!busy" @click="show(watch.id)">{{ say('watch-runs') }}</button>
          <template v-if="own(watch) && watch.state !== 'ended'">
            <button type="button" class="text-sea underline" :disabled="!!busy" @click="change(() => api.runWatch(watch.id), watch.id)">{{ say('watch-now') }}</button>
            <button type="button" class="text-sea underline" :disabled="!!busy" @click="change(() => api.changeWatch(watch.id, watch.state === 'on'), watch.id)">{{ say(watch.state === 'on' ? 'watch-pause' : 'watch-resume') }}</button>
            <button type="button" class="text-sea underline" :disabled="!!busy" @click="change(() => api.endWatch(watch.id), watch.id)">{{ say('watch-end') }}</button>
          </template>
        </p>
        <ol v-if="runs[watch.id]" class="mt-3 border-t border-line pt-2 text-sm" :aria-label="say('watch-runs')">
          <li v-for="run in runs[watch.id]!.runs" :key="run.due_at" class="flex flex-wrap gap-x-4 py-1">
            <span class="tabular-nums">{{ at(run.due_at) }}<template v-if="run.late"> ({{ say('caught-up') }})</template></span>
            <span>{{ say(`came-${run.outcome ?? 'waiting'}`) }}<template v-if="run.figure">: {{ run.figure }}</template></span>
            <RouterLink v-if="run.inquiry" :to="{ name: 'leaf', params: { id: run.inquiry } }" class="text-sea underline">{{ say('inquiry') }}</RouterLink>
            <span v-if="run.why" class="basis-full text-faint">{{ run.why }}</span>
          </li>
          <li v-if="!runs[watch.id]!.runs.length" class="text-faint">{{ say('no-runs') }}</li>
        </ol>
      </li>
    </ul>
  </section>
</template>
