// What the console says, in the language of whoever looks: from the catalogues of the service, a file for each language.
import { FluentBundle, FluentResource, type FluentVariable } from '@fluent/bundle'
import { createFluentVue } from 'fluent-vue'
import { ref } from 'vue'
import german from '../../../src/harquel/core/language/messages/console.de.ftl?raw'
import english from '../../../src/harquel/core/language/messages/console.en.ftl?raw'

export type Language = 'en' | 'de'
export const LANGUAGES: { value: Language; label: string }[] = [{ value: 'en', label: 'English' }, { value: 'de', label: 'Deutsch' }]

function bundle(language: Language, text: string): FluentBundle {
  // What marks off the direction of a value would stand in titles and labels, too.
  const made = new FluentBundle(language, { useIsolating: false })
  const faults = made.addResource(new FluentResource(text))
  if (faults.length) throw faults[0]!
  return made
}

const BUNDLES: Record<Language, FluentBundle> = { en: bundle('en', english), de: bundle('de', german) }

/** Chosen here before, else the browser's where we speak it. Tests of what is said have no browser. */
function first(): Language {
  const kept = globalThis.localStorage?.getItem('language') ?? globalThis.navigator?.language ?? 'en'
  return kept.startsWith('de') ? 'de' : 'en'
}

/** The language of the console. */
export const language = ref<Language>(first())
export const fluent = createFluentVue({ bundles: [BUNDLES[language.value], BUNDLES.en] })

export function chooseLanguage(next: Language): void {
  language.value = next
  localStorage.setItem('language', next)
  fluent.bundles = [BUNDLES[next], BUNDLES.en]
  applyLanguage()
}

/** Tells the browser, so that it is read out and hyphenated as what it is. */
export function applyLanguage(): void {
  document.documentElement.lang = language.value
}

/** A message with its values in place; what an older service does not tell is left out. */
export function say(message: string, values: Record<string, FluentVariable | null | undefined> = {}): string {
  const told = Object.entries(values).map(([name, value]): [string, FluentVariable] => [name, value ?? ''])
  return fluent.format(message, Object.fromEntries(told))
}

/** A word of the service for people, where we have one in their language. */
export function sayOf(kind: string, word: string): string {
  const message = `${kind}-${word.replaceAll(' ', '-').replaceAll('_', '-')}`
  return BUNDLES.en.hasMessage(message) ? say(message) : word
}
