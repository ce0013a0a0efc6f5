// Keeps what was typed and not saved from being lost by leaving.
import { onBeforeUnmount, onMounted } from 'vue'
import { onBeforeRouteLeave, onBeforeRouteUpdate } from 'vue-router'
import { say } from './say'

export function useUnsaved(dirty: () => boolean): void {
  const stay = (event: BeforeUnloadEvent) => {
    if (dirty()) event.preventDefault()
  }
  const may = () => !dirty() || window.confirm(say('unsaved'))
  onMounted(() => addEventListener('beforeunload', stay))
  onBeforeUnmount(() => removeEventListener('beforeunload', stay))
  onBeforeRouteLeave(may)
  onBeforeRouteUpdate(may)
}
