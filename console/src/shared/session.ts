// Who is signed in and which sources there are; loaded once, shared by all pages.
import { reactive } from 'vue'
import { api, Problem } from '../api/client'
import type { Me, Source } from '../api/types'

/** Instead of a source: the one that a question is about is found by its words. */
export const ANY = '*'

export const session = reactive({
  me: null as Me | null,
  sources: [] as Source[],
  chosen: localStorage.getItem('source') ?? '',

  async load(): Promise<boolean> {
    if (this.me) return true
    try {
      await this.enter(await api.me())
    } catch (error) {
      if (error instanceof Problem && (error.status === 401 || error.status === 403)) return false
      throw error
    }
    return true
  },

  // The field appears with the person: by then it must know where a question goes.
  async enter(me: Me): Promise<void> {
    await this.loadSources()
    this.me = me
  },

  async loadSources(): Promise<void> {
    this.sources = await api.sources()
    // One that can be reached comes before one that cannot.
    const usable = this.sources.filter((s) => s.enabled).sort((a, b) => Number(a.problem !== null) - Number(b.problem !== null))
    const any = this.chosen === ANY && usable.length > 1
    if (!any && !usable.some((s) => s.name === this.chosen)) this.choose(usable[0]?.name ?? '')
  },

  choose(name: string): void {
    this.chosen = name
    localStorage.setItem('source', name)
  },

  async signIn(token: string): Promise<void> {
    await this.enter(await api.signIn(token))
  },

  async signOut(): Promise<void> {
    await api.signOut()
    this.me = null
    this.sources = []
  },
})
