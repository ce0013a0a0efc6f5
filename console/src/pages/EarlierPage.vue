<script setup lang="ts">
// What was asked before, newest first.
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api } from '../api/client'
import type { InquiryLine } from '../api/types'
import { Notice } from '../components/Notice'
import { TrustMark } from '../components/TrustMark'
import { moment } from '../shared/format'
import { useDoing } from '../shared/useDoing'
import { say } from '../shared/say'

const lines = ref<InquiryLine[]>([])
const next = ref<string | null>(null)
const { busy: loading, problem, doing } = useDoing('load')

async function more(): Promise<void> {
  await doing('load', async () => {
    const page = await api.inquiries(next.value)
    lines.value.push(...page.items)
    next.value = page.next
  })
}

void more()
</script>

<template>
  <section class="pt-10">
    <h1 class="text-2xl font-bold tracking-tight">{{ say('earlier-inquiries') }}</h1>
    <div v-if="lines.length" class="mt-6 overflow-hidden rounded-lg border border-line bg-sheet">
      <RouterLink
        v-for="line in lines"
        :key="line.id"
        :to="{ name: 'leaf', params: { id: line.id } }"
        class="grid gap-x-4 gap-y-1 border-b border-line px-4 py-2.5 last:border-0 hover:bg-wash md:grid-cols-[8.5rem_minmax(0,1fr)_7rem_9rem]"
      >
        <TrustMark :line="line" />
        <span class="line-clamp-2 break-words">{{ line.standalone_question ?? line.question }}</span>
        <span class="truncate text-sm text-faint">{{ line.source }}</span>
        <span class="text-sm text-faint tabular-nums">{{ moment(line.asked_at) }}</span>
      </RouterLink>
    </div>
    <p v-else-if="!loading && !problem" class="mt-6 text-faint">{{ say('nothing-asked') }}</p>
    <Notice v-if="problem" class="mt-6" :title="problem.message" :hint="problem.hint">
      <button type="button" class="mt-2 text-sea underline" @click="more">{{ say('try-again') }}</button>
    </Notice>
    <p v-if="loading" class="beats mt-6 text-faint">{{ say('loading') }}</p>
    <button v-else-if="next" type="button" class="mt-6 rounded-lg border border-line bg-sheet px-4 py-2" @click="more">{{ say('show-older') }}</button>
  </section>
</template>
