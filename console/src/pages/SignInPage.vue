<script setup lang="ts">
// The way in: a token for a session.
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {  } from '../api/client'
import { Notice } from '../components/Notice'
import { session } from '../shared/session'
import { useDoing } from '../shared/useDoing'
import { chooseLanguage, language, LANGUAGES, say } from '../shared/say'

const token = ref('')
const { busy, problem, doing } = useDoing()
const router = useRouter()
const route = useRoute()

async function enter(): Promise<void> {
  await doing('enter', async () => {
    await session.signIn(token.value.trim())
    const next = typeof route.query.next === 'string' && route.query.next.startsWith('/') ? route.query.next : '/'
    await router.push(next)
  })
}
</script>

<template>
  <div class="mx-auto max-w-md pt-[16vh]">
    <img src="/assets/mark.svg" alt="" class="mb-6 size-14" />
    <h1 class="text-3xl font-bold tracking-tight">Harquel</h1>
    <p class="mt-2 text-faint">{{ say('claim') }}</p>
    <p v-if="route.query.ended" class="mt-6" role="status">{{ say('session-ended') }}</p>
    <form class="mt-8" @submit.prevent="enter">
      <label for="token" class="block text-sm font-semibold">{{ say('your-token') }}</label>
      <input id="token" v-model="token" type="password" autocomplete="current-password" required autofocus class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2 font-mono" />
      <p class="mt-1 text-sm text-faint">{{ say('token-hint') }}</p>
      <button type="submit" :disabled="!!busy || !token.trim()" class="mt-5 rounded-lg bg-sea px-6 py-2 font-semibold text-onsea disabled:opacity-60">
        {{ busy ? say('signing-in') : say('sign-in') }}
      </button>
    </form>
    <Notice v-if="problem" class="mt-5" :title="problem.message" :hint="problem.hint" />
    <p class="mt-8 flex gap-4 text-sm">
      <button v-for="spoken in LANGUAGES" :key="spoken.value" type="button" :lang="spoken.value" :aria-pressed="language === spoken.value" class="underline-offset-4" :class="language === spoken.value ? 'font-semibold' : 'text-sea underline'" @click="chooseLanguage(spoken.value)">{{ spoken.label }}</button>
    </p>
  </div>
</template>
