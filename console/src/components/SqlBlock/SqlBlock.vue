<script setup lang="ts">
// SQL laid out for reading, words of the language set off, findings marked in their places.
import { computed, ref } from 'vue'
import { laidOut, type Mark } from '../../shared/layout'
import { say } from '../../shared/say'

const props = defineProps<{
  /** The statement. */
  sql: string
  /** Places to mark, in code points of `sql`. */
  marks?: Mark[]
}>()

const copied = ref(false)

const WORDS =
  /\b(SELECT|FROM|WHERE|JOIN|LEFT|CROSS|INNER|ON|AND|OR|NOT|IN|IS|NULL|AS|GROUP|ORDER|BY|HAVING|LIMIT|OFFSET|UNION|ALL|WITH|CASE|WHEN|THEN|ELSE|END|DESC|ASC|DISTINCT|OVER|LIKE|BETWEEN|EXISTS|DELETE|UPDATE|INSERT|RETURNING)\b/
const parts = computed(() => {
  const { points, marks } = laidOut(props.sql, props.marks ?? [])
  const cuts = [...new Set([0, points.length, ...marks.flatMap((m) => [m.start, m.end])])].sort((a, b) => a - b)
  return cuts.slice(0, -1).map((from, index) => {
    const mark = marks.find((m) => m.start <= from && from < m.end)
    return { pieces: points.slice(from, cuts[index + 1]).join('').split(WORDS), mark: mark?.message }
  })
})

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(props.sql)
  copied.value = true
  setTimeout(() => (copied.value = false), 1500)
}
</script>

<template>
  <div class="relative rounded-lg border border-line bg-sheet">
    <button type="button" class="absolute top-2 right-2 rounded border border-line bg-sheet px-2 py-0.5 text-xs text-faint" @click="copy">
      {{ copied ? say('copied') : say('copy') }}
    </button>
    <pre class="overflow-x-auto p-3 pr-16 font-mono text-[0.8125rem] leading-relaxed break-words whitespace-pre-wrap" tabindex="0"><template
      v-for="(part, at) in parts" :key="at"
    ><component :is="part.mark ? 'mark' : 'span'" :title="part.mark" :class="part.mark ? 'bg-transparent text-inherit underline decoration-signal decoration-wavy underline-offset-4' : ''"><template
      v-for="(piece, index) in part.pieces" :key="index"
    ><span :class="index % 2 ? 'font-semibold text-sea' : ''">{{ piece }}</span></template></component></template></pre>
  </div>
</template>
