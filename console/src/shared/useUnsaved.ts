// Keeps what was typed and not saved from being lost by leaving.
import { onBeforeUnmount, onMounted } from 'vue'
import { onBeforeRouteLeave, onBeforeRouteUpdate } from 'vue-router'

const WORDS = 'What you typed here is not saved. Leave it?'

export function useUnsaved(dirty: () => boolean): void {
  const stay = (event: BeforeUnloadEvent) => {
    if (dirty()) event.preventDefault()
  }
  const may = () => !dirty() || window.confirm(WORDS)
  onMounted(() => addEventListener('beforeunload', stay))
  onBeforeUnmount(() => removeEventListener('beforeunload', stay))
  onBeforeRouteLeave(may)
  onBeforeRouteUpdate(may)
}
