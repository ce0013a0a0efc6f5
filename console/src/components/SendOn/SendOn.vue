<script setup lang="ts">
// An answer sent on to where others look, as far as the policy of its source lets it, and whether it has arrived.
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { onBeforeUnmount, ref } from 'vue'
import { api } from '../../api/client'
import type { Sending } from '../../api/types'
import { MailForm } from '../MailForm'
import { say } from '../../shared/say'
import { useDoing } from '../../shared/useDoing'

defineProps<{
  /** The inquiry's id. */
  inquiry: string
  /** Where it may be sent. */
  to: string[]
  /** Whom it may be mailed to: addresses, or @domain for all of a domain. */
  recipients: string[]
}>()

const LOOK_MS = 1500
const sent = ref<Sending | null>(null)
const mailing = ref(false)
const { busy, problem, doing } = useDoing()
let timer: ReturnType<typeof setTimeout> | undefined
onBeforeUnmount(() => clearTimeout(timer))

async function send(made: () => Promise<Sending>): Promise<void> {
  clearTimeout(timer)
  await doing('send', async () => {
    sent.value = await made()
    mailing.value = false
    timer = setTimeout(look, LOOK_MS)
  })
}

async function look(): Promise<void> {
  const id = sent.value?.id
  try {
    sent.value = (await api.sendings()).find((one) => one.id === id) ?? sent.value
  } catch {
    // It is on its way all the same; the next look may say how far it has come.
  }
  if (sent.value?.state === 'waiting') timer = setTimeout(look, LOOK_MS)
}

function told(one: Sending): string {
  const values = { destination: one.destination, why: one.said }
  return say(one.state === 'waiting' && one.said ? 'sending-again' : `sending-${one.state}`, values)
}
</script>

<template>
  <div class="contents">
    <Menu as="div" class="relative">
      <MenuButton class="text-sea underline" :disabled="!!busy">{{ say('send-on') }}</MenuButton>
      <MenuItems class="fixed inset-x-4 bottom-4 z-20 rounded-lg sm:absolute sm:inset-x-auto sm:bottom-full sm:left-0 sm:mb-1 sm:w-64 border border-line bg-sheet py-1 text-ink shadow-lg">
        <MenuItem v-for="one in to" :key="one" v-slot="{ active }">
          <button type="button" class="block w-full truncate px-3 py-2 text-left" :class="active ? 'bg-wash' : ''" @click="send(() => api.sendOn(inquiry, one))">{{ one }}</button>
        </MenuItem>
        <MenuItem v-if="recipients.length" v-slot="{ active }">
          <button type="button" class="block w-full truncate px-3 py-2 text-left" :class="active ? 'bg-wash' : ''" @click="mailing = true">{{ say('send-mail') }}</button>
        </MenuItem>
      </MenuItems>
    </Menu>
    <MailForm v-if="mailing" :recipients="recipients" :busy="!!busy" @send="(to, attach) => send(() => api.sendOn(inquiry, to, attach))" @close="mailing = false" />
    <span v-if="problem" class="basis-full text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</span>
    <span v-else-if="sent" class="basis-full" :class="sent.state === 'given-up' ? 'text-signal' : 'text-faint'" role="status">
      {{ told(sent) }}
      <button v-if="sent.state === 'given-up'" type="button" class="text-sea underline" :disabled="!!busy" @click="send(() => api.sendAgain(sent!.id))">{{ say('try-again') }}</button>
    </span>
  </div>
</template>
