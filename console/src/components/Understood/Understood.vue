<script setup lang="ts">
// How the question was understood, part by part; pointing at one lights up the words that it stands for, and what it
// could have meant instead is a click away: a new inquiry that follows this one.
import { computed } from 'vue'
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import type { SecondOpinion } from '../../api/types'
import { useDoing } from '../../shared/useDoing'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry's id. */
  inquiry: string
  /** What was understood, and what is offered instead. */
  opinion: SecondOpinion
  /** Whether whoever looks may ask. */
  mayAsk: boolean
}>()
const emit = defineEmits<{
  /** The words of the question to light up; none: none of them. */
  light: [words: string[]]
}>()

const router = useRouter()
const { busy, problem, doing } = useDoing()
const parts = computed(() =>
  props.opinion.parts.map((part, at) => ({ ...part, instead: props.mayAsk ? props.opinion.instead.filter((offer) => offer.part === at) : [] })),
)

async function take(choice: string): Promise<void> {
  await doing(choice, async () => {
    const made = await api.choose(props.inquiry, choice)
    await router.push({ name: 'leaf', params: { id: made.id } })
  })
}
</script>

<template>
  <div class="max-w-[72ch] text-sm">
    <span id="understood" class="text-faint">{{ say('understood-as') }}</span>
    <ul aria-labelledby="understood" class="relative mt-1 flex flex-wrap items-center gap-x-1 gap-y-1">
      <li
        v-for="(part, at) in parts" :key="at" class="max-w-full min-w-0"
        @mouseenter="emit('light', part.words)" @mouseleave="emit('light', [])" @focusin="emit('light', part.words)" @focusout="emit('light', [])"
      >
        <!-- On a phone below the whole list, so that nothing of it is cut off. -->
        <Menu v-if="part.instead.length" as="div" class="sm:relative">
          <MenuButton :disabled="!!busy" class="max-w-full rounded border border-line bg-sheet px-2 py-0.5 text-left break-words hover:border-sea">
            {{ part.text }}<span class="text-sea" aria-hidden="true"> ▾</span><span class="sr-only">{{ say('meant-otherwise') }}</span>
          </MenuButton>
          <MenuItems class="absolute left-0 z-20 mt-1 max-h-72 w-72 max-w-full overflow-y-auto rounded-lg border border-line bg-sheet py-1 shadow-lg sm:max-w-[80vw]">
            <p class="px-3 py-1 text-faint">{{ say('ask-again-with') }}</p>
            <MenuItem v-for="offer in part.instead" :key="offer.id" v-slot="{ active }">
              <button type="button" class="w-full px-3 py-2 text-left break-words" :class="active ? 'bg-wash' : ''" @click="take(offer.id)">{{ offer.label }}</button>
            </MenuItem>
          </MenuItems>
        </Menu>
        <span
          v-else-if="part.words.length" tabindex="0" :aria-label="say('for-words', { text: part.text, words: part.words.join(' … ') })"
          class="inline-block max-w-full cursor-default rounded border border-line bg-sheet px-2 py-0.5 break-words hover:border-sea focus:border-sea"
        >{{ part.text }}</span>
        <span v-else class="inline-block max-w-full rounded border border-dashed border-line px-2 py-0.5 break-words text-faint">{{ part.text }}{{ part.assumed ? ` ${say('assumed')}` : '' }}</span>
      </li>
    </ul>
    <p v-if="busy" class="mt-1 text-faint">{{ say('asking') }}</p>
    <p v-if="problem" class="mt-1 text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</p>
  </div>
</template>
