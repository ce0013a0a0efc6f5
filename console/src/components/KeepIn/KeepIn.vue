<script setup lang="ts">
// Keeps an answer in a casebook: one of one's own, or a new one.
import { nextTick, ref, useId } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../../api/client'
import type { Casebook } from '../../api/types'
import { say } from '../../shared/say'
import { useDoing } from '../../shared/useDoing'

const props = defineProps<{
  /** The inquiry's id. */
  inquiry: string
}>()

const open = ref(false)
const title = ref('')
const known = ref<string[]>([])
const made = ref<Casebook | null>(null)
const field = ref<HTMLInputElement | null>(null)
const { busy, problem, doing } = useDoing()
const id = useId()

async function begin(): Promise<void> {
  made.value = null
  open.value = true
  await doing('list', async () => {
    known.value = (await api.casebooks()).filter((one) => one.mine).map((one) => one.title)
    title.value ||= known.value[0] ?? ''
  })
  await nextTick()
  field.value?.focus()
  field.value?.select()
}

async function keep(): Promise<void> {
  await doing('keep', async () => {
    made.value = await api.keepTitled(props.inquiry, title.value)
    open.value = false
  })
}
</script>

<template>
  <div class="contents">
    <button type="button" class="text-sea underline" :aria-expanded="open" @click="begin">{{ say('keep-in') }}</button>
    <form v-if="open" class="flex basis-full flex-wrap items-end gap-x-4 gap-y-3 rounded-lg border border-line bg-sheet p-4 text-sm text-ink" @submit.prevent="keep" @keydown.esc="open = false">
      <label class="min-w-0 grow basis-64">{{ say('casebook') }}
        <input ref="field" v-model.trim="title" required maxlength="120" :list="id" autocomplete="off" :placeholder="say('casebook-example')" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
      </label>
      <datalist :id="id"><option v-for="one in known" :key="one" :value="one"></option></datalist>
      <span class="flex items-baseline gap-4">
        <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!busy">{{ say('casebook-keep') }}</button>
        <button type="button" class="text-faint underline" @click="open = false">{{ say('cancel') }}</button>
      </span>
    </form>
    <span v-if="problem" class="basis-full text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</span>
    <span v-else-if="made" class="basis-full text-faint" role="status">
      {{ say('casebook-kept') }} <RouterLink :to="{ name: 'casebook', params: { id: made.id } }" class="text-sea underline">{{ made.title }}</RouterLink>
    </span>
  </div>
</template>
