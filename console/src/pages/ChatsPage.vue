<script setup lang="ts">
// Showing in a chat who one is here: a code that counts once, and who is linked.
import { ref } from 'vue'
import { api } from '../api/client'
import type { ChatCode, ChatLine, ChatLink } from '../api/types'
import { Notice } from '../components/Notice'
import { say } from '../shared/say'
import { session } from '../shared/session'
import { useDoing } from '../shared/useDoing'

const chats = ref<ChatLine[] | null>(null)
const links = ref<ChatLink[]>([])
const code = ref<ChatCode | null>(null)
const copied = ref(false)
const { busy, problem, doing } = useDoing('load')

async function load(): Promise<void> {
  await doing('load', async () => {
    ;[chats.value, links.value] = await Promise.all([api.chats(), api.chatLinks()])
  })
}

async function make(chat: string): Promise<void> {
  copied.value = false
  await doing(`code ${chat}`, async () => (code.value = await api.chatCode(chat)))
}

async function end(link: ChatLink): Promise<void> {
  await doing(`end ${link.id}`, async () => {
    await api.endChatLink(link.id)
    links.value = await api.chatLinks()
  })
}

async function copy(): Promise<void> {
  if (code.value === null) return
  await navigator.clipboard.writeText(code.value.write)
  copied.value = true
}

const time = (at: string): string => new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })
const day = (at: string): string => new Date(at).toLocaleDateString()

void load()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('chats') }}</h1>
    <p class="mt-1 max-w-[70ch] text-faint">{{ say('chats-what') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="chats === null" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <p v-if="chats && !chats.length" class="mt-6 max-w-[70ch] text-faint">{{ say('no-chats') }}</p>
    <ul v-if="chats?.length" class="mt-6 grid gap-4" :aria-label="say('chats')">
      <li v-for="chat in chats" :key="chat.name" class="min-w-0 rounded-lg border border-line bg-sheet p-5">
        <div class="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-2">
          <h2 class="text-lg font-semibold break-words">{{ chat.name }}</h2>
          <button type="button" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!busy" @click="make(chat.name)">{{ say('make-code') }}</button>
        </div>
        <div v-if="code?.chat === chat.name" class="mt-4 border-t border-line pt-4" role="status">
          <p>{{ say('write-there') }}</p>
          <p class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
            <code class="rounded-md bg-wash px-3 py-2 text-lg tracking-wide">{{ code.write }}</code>
            <button type="button" class="text-sea underline" @click="copy">{{ say(copied ? 'copied' : 'copy') }}</button>
          </p>
          <p class="mt-2 text-sm text-faint">{{ say('code-until', { time: time(code.ends_at) }) }}</p>
        </div>
        <ul v-if="links.some((one) => one.chat === chat.name)" class="mt-4 border-t border-line pt-2" :aria-label="say('linked-there')">
          <li v-for="link in links.filter((one) => one.chat === chat.name)" :key="link.id" class="flex flex-wrap items-baseline gap-x-4 gap-y-1 py-2">
            <span class="min-w-0 break-words">{{ say(link.person === session.me?.person ? 'asks-as-you' : 'asks-as', { theirs: link.theirs, person: link.person }) }}</span>
            <span class="text-sm text-faint">{{ say('since-day', { day: day(link.at) }) }}</span>
            <button type="button" class="text-sea underline" :disabled="!!busy" @click="end(link)">{{ say('end-link') }}</button>
          </li>
        </ul>
      </li>
    </ul>
  </section>
</template>
