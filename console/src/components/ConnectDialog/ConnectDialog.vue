<script setup lang="ts">
// Connecting a source: its fields, and the password that is kept encrypted.
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { computed, reactive } from 'vue'
import { api } from '../../api/client'
import { Notice } from '../Notice'
import { useDoing } from '../../shared/useDoing'
import { say } from '../../shared/say'

defineProps<{
  /** Whether it is shown. */
  open: boolean
}>()
const emit = defineEmits<{ close: []; connected: [name: string] }>()

const fields = reactive({ name: '', engine: 'postgresql', host: '', port: '', database: '', user: '', password: '', path: '', tls: 'prefer', title: '' })
const { busy: sending, problem, doing } = useDoing()
const server = computed(() => fields.engine !== 'sqlite')
const input = 'mt-1 w-full rounded-lg border border-line bg-paper px-3 py-2'

async function connect(): Promise<void> {
  const own = server.value
    ? { host: fields.host, port: fields.port ? Number(fields.port) : undefined, database: fields.database, user: fields.user, password: fields.password || undefined, tls: fields.tls }
    : { path: fields.path }
  await doing('connect', async () => {
    const made = await api.connect({ name: fields.name, engine: fields.engine, title: fields.title, ...own })
    fields.password = ''
    emit('connected', made.name)
  })
}
</script>

<template>
  <Dialog :open="open" class="relative z-30" @close="emit('close')">
    <div class="fixed inset-0 bg-ink/40" aria-hidden="true" />
    <div class="fixed inset-0 overflow-y-auto p-4">
      <DialogPanel class="mx-auto my-6 max-w-xl rounded-lg border border-line bg-sheet p-6">
        <DialogTitle class="text-xl font-bold">{{ say('connect-a-source') }}</DialogTitle>
        <p class="mt-1 text-sm text-faint">{{ say('connect-hint') }}</p>
        <form class="mt-4 grid gap-4 sm:grid-cols-2" @submit.prevent="connect">
          <label class="text-sm">{{ say('field-name') }}<input v-model.trim="fields.name" required pattern="[a-z][a-z0-9_\-]{0,39}" :title="say('field-name-hint')" :class="input" /></label>
          <label class="text-sm">{{ say('field-engine') }}
            <select v-model="fields.engine" :class="input"><option value="postgresql">PostgreSQL</option><option value="mariadb">MariaDB</option><option value="sqlite">SQLite</option></select>
          </label>
          <template v-if="server">
            <label class="text-sm">{{ say('field-host') }}<input v-model.trim="fields.host" required :class="input" /></label>
            <label class="text-sm">{{ say('field-port') }}<input v-model.trim="fields.port" inputmode="numeric" pattern="\d{1,5}" :placeholder="fields.engine === 'mariadb' ? '3306' : '5432'" :class="input" /></label>
            <label class="text-sm">{{ say('field-database') }}<input v-model.trim="fields.database" required :class="input" /></label>
            <label class="text-sm">{{ say('field-user') }}<input v-model.trim="fields.user" required autocomplete="off" :class="input" /></label>
            <label class="text-sm">{{ say('field-password') }}<input v-model="fields.password" type="password" autocomplete="new-password" :class="input" /></label>
            <label class="text-sm">TLS
              <select v-model="fields.tls" :class="input"><option value="prefer">{{ say('tls-prefer') }}</option><option value="require">{{ say('tls-require') }}</option><option value="off">{{ say('tls-off') }}</option></select>
            </label>
          </template>
          <label v-else class="text-sm sm:col-span-2">{{ say('field-file') }}<input v-model.trim="fields.path" required :class="input" /></label>
          <label class="text-sm sm:col-span-2">{{ say('field-title') }}<input v-model.trim="fields.title" :class="input" /></label>
          <Notice v-if="problem" class="sm:col-span-2" :title="problem.message" :hint="problem.hint" />
          <div class="flex gap-3 sm:col-span-2">
            <button type="submit" :disabled="!!sending" class="rounded-lg bg-sea px-4 py-2 font-semibold text-onsea disabled:opacity-60">{{ sending ? say('connecting') : say('connect') }}</button>
            <button type="button" class="rounded-lg border border-line px-4 py-2" @click="emit('close')">{{ say('cancel') }}</button>
          </div>
        </form>
      </DialogPanel>
    </div>
  </Dialog>
</template>
