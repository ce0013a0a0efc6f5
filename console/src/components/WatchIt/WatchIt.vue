<script setup lang="ts">
// Has a question asked again by itself: when, what of it is told, and to whom.
import { computed, nextTick, ref, useId } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../../api/client'
import type { Watch } from '../../api/types'
import { say } from '../../shared/say'
import { useDoing } from '../../shared/useDoing'

const props = defineProps<{
  /** The inquiry's id. */
  inquiry: string
  /** Destinations that it may be told. */
  to: string[]
  /** Whom it may be mailed to: addresses, or @domain for all of a domain. */
  recipients: string[]
}>()

const TELLS = ['always', 'change', 'above', 'below', 'by', 'missing', 'appears'] as const
const open = ref(false)
const fields = ref({ when: '', tell: 'always' as (typeof TELLS)[number], line: '', to: '' })
const made = ref<Watch | null>(null)
const first = ref<HTMLInputElement | null>(null)
const { busy, problem, doing } = useDoing()
const id = useId()
const lined = computed(() => ['above', 'below', 'by'].includes(fields.value.tell))
const known = computed(() => [...props.to, ...props.recipients.filter((one) => !one.startsWith('@'))])

async function begin(): Promise<void> {
  made.value = null
  open.value = true
  await nextTick()
  first.value?.focus()
}

async function watch(): Promise<void> {
  await doing('watch', async () => {
    const { when, tell, line, to } = fields.value
    made.value = await api.watch(props.inquiry, { when, tell, to: to.split(/[\s,;]+/).filter(Boolean), ...(lined.value ? { line } : {}) })
    open.value = false
  })
}
</script>

<template>
  <div class="contents">
    <button type="button" class="text-sea underline" :aria-expanded="open" @click="begin">{{ say('watch-it') }}</button>
    <form v-if="open" class="grid basis-full gap-x-4 gap-y-3 rounded-lg border border-line bg-sheet p-4 text-sm text-ink sm:grid-cols-2" @submit.prevent="watch" @keydown.esc="open = false">
      <label>{{ say('watch-when') }}
        <input ref="first" v-model.trim="fields.when" required maxlength="120" autocomplete="off" :placeholder="say('watch-when-example')" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
      </label>
      <label>{{ say('watch-tell') }}
        <select v-model="fields.tell" class="mt-1 block w-full rounded-lg border border-line bg-page px-3 py-2">
          <option v-for="tell in TELLS" :key="tell" :value="tell">{{ say(`tell-${tell}`) }}</option>
        </select>
      </label>
      <div>
        <label :for="`${id}-to`">{{ say('mail-to') }}</label>
        <input :id="`${id}-to`" v-model.trim="fields.to" required maxlength="500" :list="id" :aria-describedby="`${id}-lets`" autocomplete="off" spellcheck="false" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
        <span :id="`${id}-lets`" class="mt-1 block text-faint">{{ say('mail-lets', { names: [...to, ...recipients].join(', ') }) }}</span>
        <datalist :id="id"><option v-for="one in known" :key="one" :value="one"></option></datalist>
      </div>
      <label v-if="lined">{{ say(fields.tell === 'by' ? 'watch-by-how-much' : 'watch-line') }}
        <input v-model.trim="fields.line" required maxlength="40" inputmode="decimal" autocomplete="off" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
      </label>
      <span class="flex items-baseline gap-4 sm:col-span-2">
        <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="!!busy">{{ say('watch-begin') }}</button>
        <button type="button" class="text-faint underline" @click="open = false">{{ say('cancel') }}</button>
      </span>
    </form>
    <span v-if="problem" class="basis-full text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</span>
    <span v-else-if="made" class="basis-full text-faint" role="status">
      {{ say('watch-made', { when: made.when, zone: made.zone }) }} <RouterLink :to="{ name: 'watches' }" class="text-sea underline">{{ say('watches') }}</RouterLink>
    </span>
  </div>
</template>
