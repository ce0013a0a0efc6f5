<script setup lang="ts">
// What is connected: checked, scanned, switched, and a way to connect more.
import { ref } from 'vue'
import { ConnectDialog } from '../components/ConnectDialog'
import { Notice } from '../components/Notice'
import { SourceCard } from '../components/SourceCard'
import { session } from '../shared/session'
import { useDoing } from '../shared/useDoing'
import { say } from '../shared/say'

const connecting = ref(false)
const { busy: loading, problem, doing } = useDoing('load')

async function load(): Promise<void> {
  await doing('load', () => session.loadSources())
}

async function connected(): Promise<void> {
  connecting.value = false
  await load()
}

void load()
</script>

<template>
  <section class="pt-10">
    <div class="flex flex-wrap items-center justify-between gap-4">
      <h1 class="text-2xl font-bold tracking-tight">{{ say('sources') }}</h1>
      <button type="button" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea" @click="connecting = true">{{ say('connect-a-source') }}</button>
    </div>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="loading && !session.sources.length" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <p v-else-if="!session.sources.length" class="mt-6 text-faint">{{ say('nothing-connected') }}</p>
    <div class="mt-6 space-y-4">
      <SourceCard v-for="source in session.sources" :key="source.name" :source="source" @changed="load" />
    </div>
    <ConnectDialog :open="connecting" @close="connecting = false" @connected="connected" />
  </section>
</template>
