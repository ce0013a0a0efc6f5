<script setup lang="ts">
// Writes the text of a casebook: Markdown, with the answers that it can refer to beside it.
import { computed, nextTick, onMounted, ref } from 'vue'
import type { Casebook } from '../../api/types'
import { say } from '../../shared/say'
import { useUnsaved } from '../../shared/useUnsaved'

const props = defineProps<{
  casebook: Casebook
  busy: boolean
}>()
const emit = defineEmits<{
  save: [title: string, text: string, drop: string[]]
  close: []
}>()

const title = ref(props.casebook.title)
const text = ref(props.casebook.text)
const drop = ref<string[]>([])
const area = ref<HTMLTextAreaElement | null>(null)
const left = ref(false)
const dirty = computed(() => !left.value && (title.value !== props.casebook.title || text.value !== props.casebook.text || drop.value.length > 0))
useUnsaved(() => dirty.value)
onMounted(() => area.value?.focus())

async function insert(what: string): Promise<void> {
  const field = area.value
  if (!field) return
  const at = field.selectionStart
  text.value = text.value.slice(0, at) + what + text.value.slice(field.selectionEnd)
  await nextTick()
  field.focus()
  field.setSelectionRange(at + what.length, at + what.length)
}

function letGo(name: string): void {
  drop.value = drop.value.includes(name) ? drop.value.filter((one) => one !== name) : [...drop.value, name]
}

function save(): void {
  emit('save', title.value, text.value, drop.value)
}

function close(): void {
  if (dirty.value && !window.confirm(say('unsaved'))) return
  left.value = true
  emit('close')
}
</script>

<template>
  <form class="mt-6 grid gap-6 lg:grid-cols-[minmax(0,1fr)_18rem]" @submit.prevent="save" @keydown.esc="close">
    <div class="min-w-0">
      <label class="block text-sm">{{ say('casebook-title') }}
        <input v-model.trim="title" required maxlength="120" autocomplete="off" class="mt-1 w-full rounded-lg border border-line bg-sheet px-3 py-2 text-lg font-semibold" />
      </label>
      <label class="mt-4 block text-sm">{{ say('casebook-text') }}
        <textarea ref="area" v-model="text" rows="22" maxlength="40000" spellcheck="true" class="mt-1 w-full resize-y rounded-lg border border-line bg-sheet px-3 py-2 font-mono text-sm leading-relaxed"></textarea>
      </label>
      <p class="mt-3 flex items-baseline gap-4">
        <button type="submit" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60" :disabled="busy">{{ say('casebook-save') }}</button>
        <button type="button" class="text-faint underline" @click="close">{{ say('cancel') }}</button>
      </p>
    </div>
    <aside class="text-sm">
      <h2 class="font-semibold">{{ say('casebook-refer') }}</h2>
      <p class="mt-1 text-faint">{{ say('casebook-refer-how') }}</p>
      <ul class="mt-3 grid gap-3">
        <li v-for="one in casebook.kept" :key="one.name" class="min-w-0 border-t border-line pt-3">
          <p class="break-words" :class="drop.includes(one.name) ? 'text-faint line-through' : ''">{{ one.answer.question || one.name }}</p>
          <p class="mt-1 flex flex-wrap gap-x-4 gap-y-1">
            <button type="button" class="font-mono text-sea underline" @click="insert(`[=${one.name}]`)">[={{ one.name }}]</button>
            <button type="button" class="text-faint underline" :aria-pressed="drop.includes(one.name)" @click="letGo(one.name)">{{ say(drop.includes(one.name) ? 'casebook-stay' : 'casebook-drop') }}</button>
          </p>
          <p v-if="one.answer.table && (one.answer.table.columns.length > 1 || one.answer.table.row_count > 1)" class="mt-1 text-faint">{{ one.answer.table.columns.map((column) => column.name.replaceAll('_', ' ')).join(', ') }}</p>
        </li>
        <li v-if="!casebook.kept.length" class="text-faint">{{ say('casebook-none-kept') }}</li>
      </ul>
    </aside>
  </form>
</template>
