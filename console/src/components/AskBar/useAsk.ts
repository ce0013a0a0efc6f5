// Sends a question and goes to its leaf.
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, Problem } from '../../api/client'
import { session } from '../../shared/session'

export const LONGEST = 4000

export function useAsk() {
  const router = useRouter()
  const sending = ref(false)
  const problem = ref<Problem | null>(null)

  async function ask(question: string): Promise<boolean> {
    if (sending.value || !question.trim()) return false
    sending.value = true
    problem.value = null
    try {
      const made = await api.ask(question.trim(), session.chosen)
      await router.push({ name: 'leaf', params: { id: made.id } })
      return true
    } catch (error) {
      problem.value = error as Problem
      if (problem.value.status === 401) await router.push({ name: 'sign-in' })
      return false
    } finally {
      sending.value = false
    }
  }

  return { ask, sending, problem }
}
