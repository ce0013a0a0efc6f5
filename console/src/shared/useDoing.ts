// One way to call the service: what is being done, what went wrong, and never two at once.
// These lines rather than a library: what is under way has a name, so that the one button that was pressed shows it.
import { ref } from 'vue'
import { Problem } from '../api/client'

export function useDoing(first = '') {
  /** What is under way; empty: nothing. */
  const busy = ref(first)
  /** Why the last one did not come about. */
  const problem = ref<Problem | null>(null)

  /** Whether it came about. */
  async function doing(what: string, work: () => Promise<unknown>): Promise<boolean> {
    busy.value = what
    problem.value = null
    try {
      await work()
      return true
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      problem.value = error
      return false
    } finally {
      busy.value = ''
    }
  }

  return { busy, problem, doing }
}
