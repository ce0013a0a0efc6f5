<script setup lang="ts">
// Asking within somebody else's page: a question, how far it is, the answer with its mark; what follows goes on from it.
import { computed, nextTick, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Inquiry } from '../api/types'
import { Problem } from '../api/client'
import { ResultGrid } from '../components/ResultGrid'
import { TrustMark } from '../components/TrustMark'
import { say } from '../shared/say'
import { ask, chosen, framed, look, picture, stop, tellHeight } from './visit'

const LOOK_MS = 500
const question = ref('')
const inquiry = ref<Inquiry | null>(null)
const problem = ref<Problem | null>(null)
const busy = ref(false)
const seconds = ref(0)
const drawn = ref('')
const page = ref<HTMLElement | null>(null)
const heading = ref<HTMLElement | null>(null)
let gone = false

const answer = computed(() => inquiry.value?.answer ?? null)
const resting = (one: Inquiry): boolean => one.state === 'ended' || one.state === 'held'
const table = computed(() => (answer.value && !(answer.value.table.row_count === 1 && answer.value.table.columns.length === 1) ? answer.value.table : null))

async function put(wanted: { question?: string; follows?: string; choice?: string }): Promise<void> {
  if (busy.value) return
  busy.value = true
  problem.value = null
  drawn.value = ''
  seconds.value = 0
  const clock = setInterval(() => (seconds.value += 1), 1000)
  try {
    let found = await ask(wanted)
    inquiry.value = found
    while (!resting(found) && !gone) {
      await new Promise((go) => setTimeout(go, LOOK_MS))
      found = await look(found.id)
      inquiry.value = found
    }
    question.value = ''
    await nextTick()
    heading.value?.focus()
    if (found.answer?.chart && found.answer.table.rows.length) drawn.value = await picture(found.id).catch(() => '')
  } catch (error) {
    if (!(error instanceof Problem)) throw error
    problem.value = error
  } finally {
    clearInterval(clock)
    busy.value = false
  }
}

function send(): void {
  const follows = inquiry.value && resting(inquiry.value) && (answer.value || inquiry.value.clarify) ? { follows: inquiry.value.id } : {}
  if (question.value.trim()) void put({ question: question.value.trim(), ...follows })
}

async function cancel(): Promise<void> {
  if (inquiry.value) await stop(inquiry.value.id).catch(() => undefined)
}

function anew(): void {
  inquiry.value = null
  problem.value = null
}

const sized = new ResizeObserver(() => page.value && tellHeight(page.value.getBoundingClientRect().height))
onMounted(() => page.value && sized.observe(page.value))
onBeforeUnmount(() => {
  gone = true
  sized.disconnect()
})
</script>

<template>
  <main ref="page" class="mx-auto max-w-[56rem] p-4">
    <form class="flex rounded-lg border border-line bg-sheet" @submit.prevent="send">
      <label for="question" class="sr-only">{{ say('your-question') }}</label>
      <input
        id="question" v-model="question" maxlength="4000" autocomplete="off" :disabled="busy || !framed"
        :placeholder="answer ? say('ask-on-placeholder') : chosen.placeholder || say('ask-placeholder')" class="min-w-0 flex-1 rounded-l-lg px-4 py-2.5"
      />
      <button type="submit" class="rounded-r-lg bg-sea px-5 font-semibold text-onsea disabled:opacity-60" :disabled="busy || !question.trim()">{{ say('ask') }}</button>
    </form>
    <section class="mt-4 min-h-24" aria-live="polite">
      <p v-if="busy" class="flex flex-wrap items-baseline gap-x-4 text-faint">
        <span class="beats">{{ say('visit-working', { seconds }) }}</span>
        <button v-if="inquiry" type="button" class="text-sea underline" @click="cancel">{{ say('stop') }}</button>
      </p>
      <p v-else-if="!framed" class="text-signal">{{ say('visit-frame-only') }}</p>
      <div v-else-if="problem" role="alert">
        <p class="text-signal">{{ problem.message }}</p>
        <p class="text-sm text-faint">{{ problem.hint }}</p>
      </div>
      <template v-else-if="inquiry">
        <p class="text-sm text-faint break-words">{{ inquiry.standalone_question ?? inquiry.question }}</p>
        <h1 ref="heading" tabindex="-1" class="mt-1 text-xl leading-snug break-words outline-none">{{ answer ? answer.text : inquiry.problem ? inquiry.problem.title : inquiry.clarify ? inquiry.clarify.question : say('visit-held') }}</h1>
        <p class="mt-2"><TrustMark :line="inquiry" /></p>
        <ul v-if="answer?.caveats.length" class="mt-1 list-disc pl-5 text-sm text-signal"><li v-for="one in answer.caveats" :key="one.message" class="break-words">{{ one.message }}</li></ul>
        <p v-if="inquiry.problem?.hint" class="mt-1 text-faint">{{ inquiry.problem.hint }}</p>
        <ul v-if="inquiry.clarify" class="mt-3 flex flex-wrap gap-2">
          <li v-for="one in inquiry.clarify.choices" :key="one.id">
            <button type="button" class="rounded-lg border border-sea px-3 py-1.5 text-left text-sea" @click="put({ follows: inquiry.id, choice: one.id })">{{ one.label }}</button>
          </li>
        </ul>
        <img v-if="drawn" :src="drawn" :alt="answer?.chart?.title" class="mt-4 max-w-full" />
        <ResultGrid v-if="table" :table="table" :first="8" class="mt-4 min-w-0" />
        <p class="mt-3 text-sm"><button type="button" class="text-sea underline" @click="anew">{{ say('visit-anew') }}</button></p>
      </template>
    </section>
  </main>
</template>
