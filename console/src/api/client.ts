// Calls to the service with the session cookie; errors carry the service's own words and hint.
import type { Casebook, CasebookLine, CasebookVersion, Catalog, CatalogTable, ChatCode, ChatLine, ChatLink, Check, Coverage, DocumentShape, Drawing, Example, Inquiry, InquiryLine, Me, Model, ModelCheck, OpenLink, OpenLinkMade, Page, Scan, Sending, ShownAnswer, Source, Usage, Watch } from './types'
import { visibly } from '../shared/visible'
import { language, say } from '../shared/say'

export class Problem extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly hint: string,
  ) {
    super(title)
  }
}

/** Tells `session` when a call finds that nobody is signed in any more. */
export const ended = new EventTarget()

function csrfToken(): string {
  return document.cookie.match(/(?:^|; )harquel_csrf=([^;]+)/)?.[1] ?? ''
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api/v1/${path}`, {
      method,
      headers: {
        // Problems are told in the language that was chosen here, which need not be the browser's.
        'accept-language': language.value,
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(method === 'GET' ? {} : { 'X-CSRFToken': csrfToken() }),
      },
      body: body === undefined ? undefined : JSON.stringify(body),
    })
  } catch {
    throw new Problem(0, say('no-answer-of-service'), say('no-answer-of-service-hint'))
  }
  if (response.status === 204 || response.status === 202) return undefined as T
  // Documents are edited and sent back: they stay as they are. Inquiries are only shown.
  if (response.ok) return JSON.parse(await response.text(), path.startsWith('inquiries') ? visibly : undefined) as T
  const said = (await response.json().catch(() => ({}))) as { title?: string; hint?: string }
  if (response.status === 401 && path !== 'session' && path !== 'me') ended.dispatchEvent(new Event('session'))
  throw new Problem(response.status, said.title ?? say('service-answered', { status: String(response.status) }), said.hint ?? say('try-again-hint'))
}

function source(name: string): string {
  return `sources/${encodeURIComponent(name)}`
}

function casebook(id: string): string {
  return `casebooks/${encodeURIComponent(id)}`
}

/** Its text goes back as it is; its answers are only shown. */
async function book(found: Promise<Casebook>): Promise<Casebook> {
  const made = await found
  return { ...made, kept: JSON.parse(JSON.stringify(made.kept), visibly) as Casebook['kept'] }
}

/** How a picture is wished for here. */
function look(dark: boolean): Record<string, string> {
  return { ...(innerWidth < 640 ? { narrow: '1' } : {}), ...(dark ? { dark: '1' } : {}) }
}

function query(values: Record<string, string | number>): string {
  return new URLSearchParams(Object.entries(values).map(([name, value]) => [name, String(value)])).toString()
}

export const api = {
  me: () => call<Me>('GET', 'me'),
  signIn: (token: string) => call<Me>('POST', 'session', { token }),
  signOut: () => call<void>('DELETE', 'session'),
  sources: () => call<Source[]>('GET', 'sources'),
  models: () => call<Model[]>('GET', 'models'),
  usage: (by: string) => call<Usage>('GET', `usage?${query({ by })}`),
  checkModel: (name: string) => call<ModelCheck>('POST', `models/${encodeURIComponent(name)}/check`, {}),
  /** Without a source it goes to the one that is followed, or to the one that it is about. */
  ask: (question: string, source: string | null, after: { follows?: string; complete?: boolean } = {}) =>
    call<Inquiry>('POST', 'inquiries', { question, ...(source === null ? {} : { source }), ...after, language: language.value }),
  choose: (follows: string, choice: string) => call<Inquiry>('POST', 'inquiries', { follows, choice, language: language.value }),
  redraft: (follows: string, model: string | null, templates: 'own' | 'shipped') =>
    call<Inquiry>('POST', 'inquiries', { follows, choice: 'redraft', model, templates, language: language.value }),
  inquiry: (id: string) => call<Inquiry>('GET', `inquiries/${encodeURIComponent(id)}`),
  inquiries: (cursor: string | null) =>
    call<Page<InquiryLine>>('GET', `inquiries?limit=40${cursor ? `&cursor=${cursor}` : ''}`),
  thread: (id: string) => call<Page<InquiryLine>>('GET', `inquiries?${query({ thread: id, limit: 200 })}`),
  connect: (fields: Record<string, unknown>) => call<Source>('POST', 'sources', fields),
  changeSource: (name: string, fields: Record<string, unknown>) => call<Source>('PATCH', source(name), fields),
  removeSource: (name: string) => call<{ stays: string }>('DELETE', source(name)),
  check: (name: string) => call<Check>('POST', `${source(name)}/check`, {}),
  startScan: (name: string) => call<void>('POST', `${source(name)}/scans`, { kind: 'full' }),
  stopScan: (name: string, id: number) => call<void>('DELETE', `${source(name)}/scans/${id}`),
  scans: (name: string) => call<Scan[]>('GET', `${source(name)}/scans`),
  catalog: (name: string) => call<Catalog>('GET', `${source(name)}/catalog?whole=1`),
  coverage: (name: string) => call<Coverage>('GET', `${source(name)}/catalog/coverage`),
  editTable: (name: string, table: string, edit: Record<string, unknown>) =>
    call<CatalogTable>('PATCH', `${source(name)}/tables/${encodeURIComponent(table)}`, edit),
  examples: (name: string) => call<Example[]>('GET', `${source(name)}/examples`),
  addExample: (name: string, fields: Record<string, unknown>) => call<Example>('POST', `${source(name)}/examples`, fields),
  changeExample: (name: string, id: number, fields: Record<string, unknown>) =>
    call<Example>('PATCH', `${source(name)}/examples/${id}`, fields),
  removeExample: (name: string, id: number) => call<void>('DELETE', `${source(name)}/examples/${id}`),
  checkExamples: (name: string) => call<Example[]>('POST', `${source(name)}/examples/check`, {}),
  release: (id: string, approve: boolean, note: string) =>
    call<Inquiry>('POST', `inquiries/${encodeURIComponent(id)}/release`, { approve, note }),
  keep: (id: string) => call<DocumentShape>('POST', `inquiries/${encodeURIComponent(id)}/keep`),
  fileOf: (id: string, form: string, wish: Record<string, string | number> = {}) =>
    `/api/v1/inquiries/${encodeURIComponent(id)}/file?${query({ form, ...wish })}`,
  draw: (id: string, wish: Record<string, string | number>) =>
    call<Drawing>('GET', `inquiries/${encodeURIComponent(id)}/chart?${query(wish)}`),
  sendOn: (id: string, to: string, attach: 'xlsx' | 'csv' | null = null) => call<Sending>('POST', `inquiries/${encodeURIComponent(id)}/sendings`, { to, attach }),
  sendAgain: (id: string) => call<Sending>('POST', `sendings/${encodeURIComponent(id)}/again`),
  sendings: () => call<Sending[]>('GET', 'sendings'),
  watch: (id: string, wish: { when: string; tell: Watch['tell']; to: string[]; line?: string }) => call<Watch>('POST', `inquiries/${encodeURIComponent(id)}/watches`, wish),
  watches: () => call<Watch[]>('GET', 'watches'),
  readWatch: (id: string) => call<Watch>('GET', `watches/${encodeURIComponent(id)}`),
  changeWatch: (id: string, paused: boolean) => call<Watch>('PATCH', `watches/${encodeURIComponent(id)}`, { paused }),
  runWatch: (id: string) => call<Watch>('POST', `watches/${encodeURIComponent(id)}/runs`),
  endWatch: (id: string) => call<void>('DELETE', `watches/${encodeURIComponent(id)}`),
  casebooks: () => call<CasebookLine[]>('GET', 'casebooks'),
  casebook: (id: string, version: number | null = null) => book(call<Casebook>('GET', `${casebook(id)}${version === null ? '' : `/versions/${version}`}`)),
  makeCasebook: (title: string, language: string) => call<Casebook>('POST', 'casebooks', { title, language }),
  writeCasebook: (id: string, change: { version: number; title?: string; text?: string; drop?: string[]; readers?: string[] }) => book(call<Casebook>('PATCH', casebook(id), change)),
  removeCasebook: (id: string) => call<void>('DELETE', casebook(id)),
  keepTitled: (inquiry: string, title: string) => call<Casebook>('POST', `inquiries/${encodeURIComponent(inquiry)}/casebooks`, { title, language: language.value }),
  runCasebook: (id: string, way: 'again' | 'anew', names: string[]) => book(call<Casebook>('POST', `${casebook(id)}/runs`, { way, names })),
  sendCasebook: (id: string, to: string) => call<Sending>('POST', `${casebook(id)}/sendings`, { to }),
  casebookVersions: (id: string) => call<CasebookVersion[]>('GET', `${casebook(id)}/versions`),
  restoreCasebook: (id: string, version: number) => book(call<Casebook>('POST', `${casebook(id)}/versions/${version}`, {})),
  casebookFile: (id: string, form: 'html' | 'md') => `/api/v1/${casebook(id)}/file?${query({ form })}`,
  /** `of` changes with what is shown, so that a picture of before is not taken for it. */
  pictureOf: (id: string, name: string, version: number, of: string, dark: boolean) => `/api/v1/${casebook(id)}/answers/${encodeURIComponent(name)}/picture?${query({ version, of, ...look(dark) })}`,
  shownPicture: (id: string, dark: boolean) => `/api/v1/inquiries/${encodeURIComponent(id)}/shown/picture?${query(look(dark))}`,
  shown: (id: string) => call<ShownAnswer>('GET', `inquiries/${encodeURIComponent(id)}/shown`),
  openLinks: () => call<OpenLink[]>('GET', 'open-links'),
  shareAnswer: (id: string, wish: { days: number; note: string }) => call<OpenLinkMade>('POST', `inquiries/${encodeURIComponent(id)}/open-links`, wish),
  shareCasebook: (id: string, wish: { days: number; note: string }) => call<OpenLinkMade>('POST', `${casebook(id)}/open-links`, wish),
  endOpenLink: (id: string) => call<void>('DELETE', `open-links/${encodeURIComponent(id)}`),
  chats: () => call<ChatLine[]>('GET', 'chats'),
  chatLinks: () => call<ChatLink[]>('GET', 'chats/links'),
  chatCode: (chat: string) => call<ChatCode>('POST', `chats/${encodeURIComponent(chat)}/codes`),
  endChatLink: (id: number) => call<void>('DELETE', `chats/links/${id}`),
  cancel: (id: string) => call<void>('POST', `inquiries/${encodeURIComponent(id)}/cancel`),
}
