// Who is signed in, where questions go, and what becomes of errors, against a service that answers from a table.
import 'vue' // Looks at the document when it is loaded: before that is another one.
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

type Reply = [status: number, body: unknown]
const replies = new Map<string, Reply | Promise<Reply> | 'gone'>()
const sent: { method: string; path: string; body: unknown }[] = []

beforeEach(() => {
  vi.resetModules()
  replies.clear()
  sent.length = 0
  const kept = new Map<string, string>()
  vi.stubGlobal('localStorage', { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => kept.set(k, v) })
  vi.stubGlobal('document', { cookie: 'a=1; harquel_csrf=token; b=2' })
  vi.stubGlobal('fetch', async (url: string, asked: RequestInit) => {
    const path = url.replace('/api/v1/', '')
    sent.push({ method: asked.method!, path, body: asked.body ? JSON.parse(asked.body as string) : undefined })
    const found = (await replies.get(`${asked.method} ${path}`)) ?? [404, { title: 'There is nothing here.', hint: 'Check the path.' }]
    if (found === 'gone') throw new TypeError('network')
    return new Response(found[0] === 204 ? null : JSON.stringify(found[1]), { status: found[0] })
  })
})
afterEach(() => vi.unstubAllGlobals())

const me = { person: 'Ada Brinewell', scopes: ['ask'] }
const source = (name: string, more: object = {}) => ({ name, enabled: true, problem: null, ...more })

describe('the session', () => {
  it('is there only once its sources are, the first that can be reached chosen', async () => {
    const { session } = await import('../src/shared/session')
    replies.set('GET me', [200, me])
    let answer: (found: Reply) => void = () => {}
    replies.set('GET sources', new Promise<Reply>((resolve) => (answer = resolve)))
    const loading = session.load()
    await vi.waitFor(() => expect(sent.map((s) => s.path)).toContain('sources'))
    expect(session.me).toBeNull()
    answer([200, [source('away', { problem: 'cannot be reached' }), source('off', { enabled: false }), source('near')]])
    expect(await loading).toBe(true)
    expect([session.me?.person, session.chosen]).toEqual(['Ada Brinewell', 'near'])
  })

  it('keeps a choice that still holds and drops one that does not', async () => {
    localStorage.setItem('source', 'second')
    const { session } = await import('../src/shared/session')
    replies.set('GET me', [200, me])
    replies.set('GET sources', [200, [source('first'), source('second')]])
    await session.load()
    expect(session.chosen).toBe('second')
    replies.set('GET sources', [200, [source('first')]])
    await session.loadSources()
    expect(session.chosen).toBe('first')
  })

  it('is none where nobody is signed in, and an error where the service is gone', async () => {
    const { session } = await import('../src/shared/session')
    replies.set('GET me', [401, { title: 'This needs a token.' }])
    expect(await session.load()).toBe(false)
    replies.set('GET me', 'gone')
    await expect(session.load()).rejects.toThrow('The service does not answer.')
  })
})

describe('a call', () => {
  it("carries the service's own words and hint, and tells when the session has ended", async () => {
    const { api, ended } = await import('../src/api/client')
    const heard = vi.fn()
    ended.addEventListener('session', heard)
    replies.set('GET sources', [401, { title: 'The token was revoked.', hint: 'Sign in again.' }])
    await expect(api.sources()).rejects.toMatchObject({ status: 401, message: 'The token was revoked.', hint: 'Sign in again.' })
    expect(heard).toHaveBeenCalledOnce()
    replies.set('GET me', [401, {}])
    await expect(api.me()).rejects.toThrow()
    expect(heard).toHaveBeenCalledOnce()
  })

  it('makes signs that are not seen visible in inquiries, and leaves documents as they are', async () => {
    const { api } = await import('../src/api/client')
    replies.set('GET inquiries/1', [200, { question: 'a\u202eb' }])
    replies.set('GET sources/s/examples', [200, [{ question: 'a\u202eb' }]])
    expect((await api.inquiry('1')).question).toBe('a‹U+202E›b')
    expect((await api.examples('s'))[0]!.question).toBe('a\u202eb')
  })

  it('writes names into addresses so that they stay names', async () => {
    const { api } = await import('../src/api/client')
    replies.set('PATCH sources/a%2Fb/tables/c%20d', [200, {}])
    await api.editTable('a/b', 'c d', { text: 'x' })
    expect(sent).toEqual([{ method: 'PATCH', path: 'sources/a%2Fb/tables/c%20d', body: { text: 'x' } }])
  })
})
