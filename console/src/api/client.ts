// Calls to the service with the session cookie; errors carry the service's own words and hint.
import type { Inquiry, InquiryLine, Me, Page, Source } from './types'

export class Problem extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly hint: string,
  ) {
    super(title)
  }
}

function csrfToken(): string {
  return document.cookie.match(/(?:^|; )harquel_csrf=([^;]+)/)?.[1] ?? ''
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api/v1/${path}`, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(method === 'GET' ? {} : { 'X-CSRFToken': csrfToken() }),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
    })
  } catch {
    throw new Problem(0, 'The service does not answer.', 'Check that it runs and that you are connected, then try again.')
  }
  if (response.ok) return (response.status === 204 || response.status === 202 ? undefined : await response.json()) as T
  const said = (await response.json().catch(() => ({}))) as { title?: string; hint?: string }
  throw new Problem(response.status, said.title ?? `The service answered ${response.status}.`, said.hint ?? 'Try again.')
}

export const api = {
  me: () => call<Me>('GET', 'me'),
  signIn: (token: string) => call<Me>('POST', 'session', { token }),
  signOut: () => call<void>('DELETE', 'session'),
  sources: () => call<Source[]>('GET', 'sources'),
  ask: (question: string, source: string) => call<Inquiry>('POST', 'inquiries', { question, source }),
  inquiry: (id: string) => call<Inquiry>('GET', `inquiries/${encodeURIComponent(id)}`),
  inquiries: (cursor: string | null) =>
    call<Page<InquiryLine>>('GET', `inquiries?limit=40${cursor ? `&cursor=${cursor}` : ''}`),
  cancel: (id: string) => call<void>('POST', `inquiries/${encodeURIComponent(id)}/cancel`),
}
