// All that the console says comes from the catalogues, and each message is there in every language.
import { FluentResource } from '@fluent/bundle'
import { parse } from '@vue/compiler-dom'
import { parse as parts } from '@vue/compiler-sfc'
import { describe, expect, it } from 'vitest'
import { chooseLanguage, say, sayOf } from '../src/shared/say'

const catalogues = import.meta.glob<string>('../../src/harquel/core/language/messages/console.*.ftl', { query: '?raw', import: 'default', eager: true })
const sources = new Map(Object.entries(import.meta.glob<string>(['../src/**/*.{vue,ts}', '!../src/api/contract.ts'], { query: '?raw', import: 'default', eager: true })))
const text = (language: string): string => catalogues[`../../src/harquel/core/language/messages/console.${language}.ftl`]!
const files = [...sources.keys()]
const all = [...sources.values()].join('\n')

/** The messages of a language with the values that each needs. */
function messages(language: string): Map<string, string> {
  const found = new FluentResource(text(language)).body
  return new Map(found.map((m) => [m.id, [...new Set(JSON.stringify(m.value).match(/"type":"var","name":"\w+"/g) ?? [])].sort().join()]))
}

describe('the catalogues', () => {
  const english = messages('en')
  const german = messages('de')

  it('hold the same messages with the same values in each language', () => {
    expect(english.size).toBeGreaterThan(250)
    expect([...german.keys()]).toEqual([...english.keys()])
    expect(Object.fromEntries(german)).toEqual(Object.fromEntries(english))
  })

  it('hold what is said and nothing else', () => {
    const said = [...all.matchAll(/\b(?:say|tell)\(\s*(?:[^'"`()]*\? )?'([\w-]+)'/g), ...all.matchAll(/path="([\w-]+)"/g)].map((m) => m[1]!)
    expect(said.length).toBeGreaterThan(150)
    expect(said.filter((message) => !english.has(message))).toEqual([])
    // Chosen by what stands behind the last stroke, or between two of them.
    const kinds = [...all.matchAll(/sayOf\('(\w+)'/g), ...all.matchAll(/`([\w-]+?)-\$\{/g)].map((m) => m[1]!)
    const unsaid = [...english.keys()].filter((id) => !new RegExp(`['"\`]${id}['"\`]`).test(all) && !kinds.some((kind) => id.startsWith(`${kind}-`)))
    expect(unsaid).toEqual([])
  })

  it('are the language that is chosen, with its plurals and its figures', () => {
    expect([say('n-rows', { n: 1 }), say('n-rows', { n: 1234 })]).toEqual(['1 row', '1,234 rows'])
    expect([sayOf('ending', 'not in the data'), sayOf('ending', 'of another version')]).toEqual(['not in the data', 'of another version'])
    globalThis.localStorage = { setItem: () => undefined } as unknown as Storage
    globalThis.document = { documentElement: {} } as Document
    chooseLanguage('de')
    expect([say('n-rows', { n: 1 }), say('n-rows', { n: 1234 }), say('event-stumbled', { error: undefined })]).toEqual([
      '1 Zeile', '1.234 Zeilen', 'Der Lauf kam nicht zum Ende: .',
    ])
    chooseLanguage('en')
  })
})

// Names of things that are called so everywhere.
const NAMES = new Set(['Harquel', 'PostgreSQL', 'MariaDB', 'SQLite', 'SQL', 'TLS', '.csv'])
const READ_OUT = new Set(['title', 'placeholder', 'aria-label', 'alt', 'hint', 'label'])

interface Node { type: number; tag?: string; content?: unknown; children?: Node[]; props?: { type: number; name: string; value?: { content: string } }[] }

/** The words of a template that stand there for people to read. */
function words(node: Node): string[] {
  const own = node.type === 2 && typeof node.content === 'string' ? [node.content] : []
  const told = (node.props ?? []).filter((p) => p.type === 6 && READ_OUT.has(p.name)).map((p) => p.value?.content ?? '')
  return [...own, ...told, ...(node.children ?? []).flatMap(words)]
}

describe('the pages', () => {
  it('say nothing of their own', () => {
    const found = files.filter((f) => f.endsWith('.vue')).flatMap((file) => {
      const template = parts(sources.get(file)!).descriptor.template!
      const said = words(parse(template.content) as unknown as Node).map((w) => w.trim())
      return said.filter((w) => /\p{L}{2}/u.test(w) && !NAMES.has(w)).map((w) => `${file}: ${w}`)
    })
    expect(found).toEqual([])
  })

  it('put together no sentence of their own', () => {
    const found = files.flatMap((file) => {
      const code = sources.get(file)!.replace(/\/\/.*|\/\*[^]*?\*\/|<!--[^]*?-->/g, '')
      const script = file.endsWith('.vue') ? (/<script[^>]*>([^]*?)<\/script>/.exec(code)?.[1] ?? '') : code
      // Words with a blank between them, in quotes: ids, classes and paths have none.
      const quoted = [...script.matchAll(/'([^'\n]*)'|`([^`\n]*)`/g)].map((m) => m[1] ?? m[2]!)
      return quoted.filter((t) => /^\p{Lu}\p{Ll}+ \p{Ll}{2,}/u.test(t)).map((t) => `${file}: ${t}`)
    })
    expect(found).toEqual([])
  })
})
