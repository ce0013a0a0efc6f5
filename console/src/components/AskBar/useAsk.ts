// Sends a question and goes to its leaf.
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import { ANY, session } from '../../shared/session'
import { useDoing } from '../../shared/useDoing'

export const LONGEST = 4000

export function useAsk() {
  const router = useRouter()
  const { busy: sending, problem, doing } = useDoing()

  async function ask(question: string, source: string | null = session.chosen, after: { follows?: string; complete?: boolean } = {}): Promise<boolean> {
    if (sending.value || !question.trim()) return false
    const asked = await doing('ask', async () => {
      const made = await api.ask(question.trim(), source === ANY ? null : source, after)
      await router.push({ name: 'leaf', params: { id: made.id } })
    })
    if (problem.value?.status === 401) await router.push({ name: 'sign-in' })
    return asked
  }

  return { ask, sending, problem }
}
