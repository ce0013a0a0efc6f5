<script setup lang="ts">
// The language models: what each does, how it stands, and whether it can be used.
import { ref } from 'vue'
import { api } from '../api/client'
import type { Model } from '../api/types'
import { ModelCard } from '../components/ModelCard'
import { Notice } from '../components/Notice'
import { useDoing } from '../shared/useDoing'
import { say } from '../shared/say'

const models = ref<Model[] | null>(null)
const { problem, doing } = useDoing('load')

async function load(): Promise<void> {
  await doing('load', async () => (models.value = await api.models()))
}

void load()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('models') }}</h1>
    <p class="mt-1 max-w-[70ch] text-faint">{{ say('models-what') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="load">{{ say('try-again') }}</button>
    </Notice>
    <p v-else-if="models === null" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <p v-else-if="!models.length" class="mt-6 text-faint">{{ say('no-models') }}</p>
    <div class="mt-6 grid gap-4 lg:grid-cols-2">
      <ModelCard v-for="model in models ?? []" :key="model.name" :model="model" @changed="load" />
    </div>
  </section>
</template>
