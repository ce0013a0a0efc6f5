<script setup lang="ts">
// Has the question drafted once more, by another model or by the templates that ship, to lay both side by side.
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import type { Model } from '../../api/types'
import { useDoing } from '../../shared/useDoing'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The inquiry's id. */
  inquiry: string
  /** Whether it was drafted by templates of the source's own. */
  own: boolean
}>()

const router = useRouter()
const models = ref<Model[] | null>(null)
const { busy, problem, doing } = useDoing()

async function look(): Promise<void> {
  if (!models.value) await doing('look', async () => (models.value = await api.models()))
}

async function again(model: string | null, templates: 'own' | 'shipped'): Promise<void> {
  await doing('again', async () => {
    const made = await api.redraft(props.inquiry, model, templates)
    await router.push({ name: 'leaf', params: { id: made.id } })
  })
}
</script>

<template>
  <div class="text-sm">
    <Menu as="div" class="relative inline-block">
      <MenuButton class="text-sea underline" :disabled="busy === 'again'" @click="look">{{ busy === 'again' ? say('asking') : say('draft-again') }}</MenuButton>
      <MenuItems class="absolute bottom-full left-0 z-20 mb-1 w-72 max-w-[80vw] rounded-lg border border-line bg-sheet py-1 shadow-lg">
        <p v-if="!models" class="px-3 py-2 text-faint">{{ say('loading') }}</p>
        <MenuItem v-for="model in models ?? []" :key="model.name" v-slot="{ active }">
          <button type="button" class="w-full px-3 py-2 text-left break-words" :class="active ? 'bg-wash' : ''" @click="again(model.name, 'own')">
            {{ model.name }} <span class="text-faint">{{ model.model }}</span>
          </button>
        </MenuItem>
        <MenuItem v-if="own" v-slot="{ active }">
          <button type="button" class="w-full border-t border-line px-3 py-2 text-left" :class="active ? 'bg-wash' : ''" @click="again(null, 'shipped')">{{ say('shipped-templates') }}</button>
        </MenuItem>
      </MenuItems>
    </Menu>
    <p v-if="problem" class="mt-1 text-signal" role="alert">{{ problem.message }} {{ problem.hint }}</p>
  </div>
</template>
