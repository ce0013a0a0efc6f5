<script setup lang="ts">
// A link by which people without an account see an answer or a casebook as it is now, for some days.
import { nextTick, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../../api/client'
import type { OpenLinkMade } from '../../api/types'
import { instant } from '../../shared/format'
import { say } from '../../shared/say'
import { useDoing } from '../../shared/useDoing'

const props = defineProps<{
  /** What is shown. */
  of: { inquiry: string } | { casebook: string }
  /** For how many days at most. */
  most: number
}>()

const open = ref(false)
const days = ref(Math.min(7, props.most))
const note = ref('')
const made = ref<OpenLinkMade | null>(null)
const copied = ref('')
const field = ref<HTMLInputElement | null>(null)
const address = ref<HTMLInputElement | null>(null)
const { busy, problem, doing } = useDoing()

async function begin(): Promise<void> {
  made.value = null
  open.value = true
  await nextTick()
  field.value?.focus()
}

async function make(): Promise<void> {
  const wish = { days: days.value, note: note.value }
  await doing('make', async () => {
    made.value = 'inquiry' in props.of ? await api.shareAnswer(props.of.inquiry, wish) : await api.shareCasebook(props.of.casebook, wish)
    open.value = false
    copied.value = ''
  })
  await nextTick()
  address.value?.select()
}

async function copy(): Promise<void> {
  try {
    await navigator.clipboard.writeText(made.value!.url)
    copied.value = say('copied')
  } catch {
    address.value?.select()
    copied.value = say('not-copied')
  }
}
</script>

<template>
  <div class="contents">
    <button type="button" class="text-sea underline" :aria-expanded="open" @click="begin">{{ say('show-it') }}</button>
    <form v-if="open" class="flex basis-full flex-wrap items-end gap-x-4 gap-y-3 rounded-lg border border-line bg-sheet p-4 text-sm text-ink" @submit.prevent="make" @keydown.esc="open = false">
      <p class="basis-full text-faint">{{ say('show-it-what') }}</p>
      <label>{{ say('show-days') }}
        <input ref="field" v-model.number="days" type="number" required min="1" :max="most" class="mt-1 block w-24 rounded-lg border border-line bg-page px-3 py-2" />
      </label>
      <label class="min-w-0 grow basis-56">{{ say('show-note') }}
        <input v-model.trim="note" maxlength="200" autocomplete="off" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
      </label>
      <span class="flex items-baseline gap-4">
        <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!busy">{{ say('show-make') }}</button>
        <button type="button" class="text-faint underline" @click="open = false">{{ say('cancel') }}</button>
      </span>
    </form>
    <span v-if="problem" class="basis-full text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</span>
    <div v-else-if="made" class="basis-full rounded-lg border border-line bg-sheet p-4 text-sm text-ink" role="status">
      <label class="block">{{ say('show-made', { until: instant(made.until) }) }}
        <input ref="address" readonly :value="made.url" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2 font-mono text-xs" @focus="address?.select()" />
      </label>
      <p class="mt-2 flex flex-wrap gap-x-4 gap-y-1">
        <button type="button" class="text-sea underline" @click="copy">{{ say('copy') }}</button>
        <RouterLink :to="{ name: 'open-links' }" class="text-sea underline">{{ say('open-links') }}</RouterLink>
        <span v-if="copied" class="text-faint">{{ copied }}</span>
      </p>
    </div>
  </div>
</template>
