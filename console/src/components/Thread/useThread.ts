// Those that follow one another with an inquiry, the oldest first.
import { ref } from 'vue'
import { api } from '../../api/client'
import type { Inquiry, InquiryLine } from '../../api/types'

export function useThread() {
  /** Null until it is known. */
  const lines = ref<InquiryLine[] | null>(null)

  /** Where it cannot be loaded the leaf stands alone: what it says is whole without it. */
  async function load(inquiry: Inquiry): Promise<void> {
    try {
      const page = await api.thread(inquiry.thread ?? inquiry.id)
      lines.value = page.items.reverse()
    } catch {
      lines.value ??= []
    }
  }

  return { lines, load }
}
