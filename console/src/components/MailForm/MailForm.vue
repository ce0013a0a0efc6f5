<script setup lang="ts">
// To whom an answer goes as mail, and with which file.
import { computed, onMounted, ref, useId } from 'vue'
import { say } from '../../shared/say'

const props = defineProps<{
  /** Whom it may go to: addresses, or @domain for all of a domain. */
  recipients: string[]
  busy: boolean
}>()
const emit = defineEmits<{ send: [to: string, attach: 'xlsx' | 'csv' | null]; close: [] }>()

const to = ref('')
const attach = ref<'' | 'xlsx' | 'csv'>('')
const field = ref<HTMLInputElement | null>(null)
const known = computed(() => props.recipients.filter((one) => !one.startsWith('@')))
const list = useId()
onMounted(() => field.value?.focus())
</script>

<template>
  <form class="flex basis-full flex-wrap items-start gap-x-4 gap-y-3 rounded-lg border border-line bg-sheet p-4 text-ink" @submit.prevent="emit('send', to, attach || null)" @keydown.esc="emit('close')">
    <div class="min-w-0 grow basis-64 text-sm">
      <label :for="`${list}-to`">{{ say('mail-to') }}</label>
      <input :id="`${list}-to`" ref="field" v-model.trim="to" :aria-describedby="`${list}-lets`" type="email" required maxlength="254" :list="list" autocomplete="off" spellcheck="false" class="mt-1 w-full rounded-lg border border-line bg-page px-3 py-2" />
      <span :id="`${list}-lets`" class="mt-1 block text-faint">{{ say('mail-lets', { names: recipients.join(', ') }) }}</span>
      <datalist :id="list"><option v-for="one in known" :key="one" :value="one"></option></datalist>
    </div>
    <label class="text-sm">
      {{ say('mail-attach') }}
      <select v-model="attach" class="mt-1 block rounded-lg border border-line bg-page px-3 py-2">
        <option value="">{{ say('mail-no-file') }}</option>
        <option value="xlsx">{{ say('form-xlsx') }}</option>
        <option value="csv">{{ say('form-csv') }}</option>
      </select>
    </label>
    <span class="flex basis-full items-baseline gap-4 text-sm">
      <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="busy">{{ say('mail-send') }}</button>
      <button type="button" class="text-faint underline" @click="emit('close')">{{ say('cancel') }}</button>
    </span>
  </form>
</template>
