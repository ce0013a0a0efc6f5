<script setup lang="ts">
// What is shown to people without an account: until when, how often it was opened, and the end of it.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../api/client'
import type { OpenLink } from '../api/types'
import { Notice } from '../components/Notice'
import { instant } from '../shared/format'
import { say } from '../shared/say'
import { session } from '../shared/session'
import { useDoing } from '../shared/useDoing'

const links = ref<OpenLink[] | null>(null)
const { busy, problem, doing } = useDoing('load')

async function load(): Promise<void> {
  await doing('load', async () => (links.value = await api.openLinks()))
}

async function end(link: OpenLink): Promise<void> {
  await doing(link.id, async () => {
    await api.endOpenLink(link.id)
    links.value = await api.openLinks()
  })
}

const told = (link: OpenLink): string =>
  [
    link.made_by === session.me?.person ? '' : link.made_by,
    say(link.holds ? 'link-until' : 'link-was-until', { until: instant(link.until) }),
    link.opened_at ? say('link-opened', { n: link.opened, at: instant(link.opened_at) }) : say('link-never-opened'),
    link.note,
  ].filter(Boolean).join(' · ')

void load()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('open-links') }}</h1>
    <p class="mt-1 max-w-[70ch] text-faint">{{ say('open-links-what') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="links === null" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <p v-else-if="!links.length" class="mt-6 max-w-[70ch] text-faint">{{ say('no-open-links') }}</p>
    <ul v-if="links?.length" class="mt-6 divide-y divide-line border-y border-line" :aria-label="say('open-links')">
      <li v-for="link in links" :key="link.id" class="py-3">
        <p class="flex flex-wrap items-baseline justify-between gap-x-6 gap-y-1">
          <RouterLink :to="link.casebook ? { name: 'casebook', params: { id: link.casebook } } : { name: 'leaf', params: { id: link.inquiry! } }" class="min-w-0 flex-1 basis-64 text-lg break-words hover:text-sea">{{ link.title }}</RouterLink>
          <button v-if="link.holds" type="button" class="text-sm text-sea underline" :disabled="!!busy" @click="end(link)">{{ say('link-end') }}</button>
          <span v-else class="text-sm text-faint">{{ say('link-over') }}</span>
        </p>
        <p class="text-sm text-faint">{{ told(link) }}</p>
        <p v-if="link.why_ended" class="text-sm text-faint">{{ link.why_ended }}</p>
      </li>
    </ul>
  </section>
</template>
