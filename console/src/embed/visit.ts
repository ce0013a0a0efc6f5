// The visit: its token comes behind the address or by a message of the page around, and goes nowhere but to the service.
import type { Inquiry } from '../api/types'
import { Problem } from '../api/client'
import { language, say, type Language } from '../shared/say'
import { visibly } from '../shared/visible'

const given = new URLSearchParams(location.hash.slice(1))
const spoken = given.get('language')
const theme = given.get('theme')

/** What the page around has chosen. */
export const chosen = {
  source: given.get('source') ?? '',
  placeholder: (given.get('placeholder') ?? '').slice(0, 120),
  language: (spoken === 'en' || spoken === 'de' ? spoken : null) as Language | null,
  dark: theme === 'dark' || (theme !== 'light' && matchMedia('(prefers-color-scheme: dark)').matches),
}

/** By itself it asks nothing: whoever sent somebody here could have given it a token of theirs, and read along. */
export const framed = parent !== window

let token = given.get('token') ?? ''
// It stays in no history and no address that somebody copies.
history.replaceState(null, '', location.pathname)

const RENEW_MS = 20_000
let renewed: ((came: boolean) => void) | null = null

/** Only the page around is listened to: which that may be, the service says by its policy for frames. */
addEventListener('message', (event: MessageEvent) => {
  const said: unknown = event.data
  if (event.source !== parent || !framed || typeof said !== 'object' || said === null) return
  const fresh = (said as Record<string, unknown>)['harquel-token']
  if (typeof fresh !== 'string' || fresh.length > 400) return
  token = fresh
  renewed?.(true)
})

function tell(what: Record<string, unknown>): void {
  // To whomever it is that shows this: nothing in it is anybody's secret.
  if (framed) parent.postMessage(what, '*')
}

/** Asks the page around for another token; whether one came. */
function renew(): Promise<boolean> {
  return new Promise((settle) => {
    const late = setTimeout(() => settle(false), framed ? RENEW_MS : 0)
    renewed = (came) => {
      clearTimeout(late)
      renewed = null
      settle(came)
    }
    tell({ 'harquel-wants': 'token' })
  })
}

export function tellHeight(pixels: number): void {
  tell({ 'harquel-height': Math.ceil(pixels) })
}

async function fetched(method: string, path: string, body?: unknown, again = true): Promise<Response> {
  if (!token && again && !(await renew())) throw new Problem(401, say('visit-over'), say('visit-over-hint'))
  let response: Response
  try {
    response = await fetch(`/api/v1/${path}`, {
      method, credentials: 'omit',
      headers: { authorization: `Bearer ${token}`, 'accept-language': language.value, ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
      body: body === undefined ? undefined : JSON.stringify(body),
    })
  } catch {
    throw new Problem(0, say('no-answer-of-service'), say('no-answer-of-service-hint'))
  }
  if (response.status === 401) {
    if (again && (await renew())) return fetched(method, path, body, false)
    throw new Problem(401, say('visit-over'), say('visit-over-hint'))
  }
  if (response.ok) return response
  const said = (await response.json().catch(() => ({}))) as { title?: string; hint?: string }
  throw new Problem(response.status, said.title ?? say('service-answered', { status: String(response.status) }), said.hint ?? '')
}

async function inquiry(method: string, path: string, body?: unknown): Promise<Inquiry> {
  return JSON.parse(await (await fetched(method, path, body)).text(), visibly) as Inquiry
}

export const ask = (wanted: { question?: string; follows?: string; choice?: string }): Promise<Inquiry> =>
  inquiry('POST', 'inquiries', { ...wanted, ...(chosen.source && !wanted.follows ? { source: chosen.source } : {}), language: language.value })
export const look = (id: string): Promise<Inquiry> => inquiry('GET', `inquiries/${encodeURIComponent(id)}`)
export const stop = async (id: string): Promise<void> => void (await fetched('POST', `inquiries/${encodeURIComponent(id)}/cancel`))

/** What is drawn of an answer, as an address within the page. */
export async function picture(id: string): Promise<string> {
  const wish = new URLSearchParams({ ...(chosen.dark ? { dark: '1' } : {}), ...(innerWidth < 640 ? { narrow: '1' } : {}) })
  const made = await fetched('GET', `inquiries/${encodeURIComponent(id)}/shown/picture?${wish}`)
  return `data:image/svg+xml;charset=utf-8,${encodeURIComponent(await made.text())}`
}
