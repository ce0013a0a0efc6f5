// Figures, instants and durations as people write them.
import type { Finding, InquiryLine } from '../api/types'

export function instant(iso: string): string {
  return iso.slice(0, 16).replace('T', ' ')
}

export function milliseconds(ms: number): string {
  return ms >= 1000 ? `${(ms / 1000).toFixed(ms >= 10_000 ? 1 : 2)} s` : `${Math.round(ms)} ms`
}

export function count(number: number, thing: string): string {
  return `${number.toLocaleString('en')} ${thing}${number === 1 ? '' : 's'}`
}

/** Splits a sentence so that its figures can be set off. */
export function figuresIn(text: string): { text: string; figure: boolean }[] {
  return text
    .split(/((?<![\w:.,-])\d+(?:,\d{3})*(?:\.\d+)?(?![\w:-]|[.,]\d))/)
    .filter((part) => part !== '')
    .map((part) => ({ text: part, figure: /^\d+(,\d{3})*(\.\d+)?$/.test(part) }))
}

/** Splits a text so that some of its words can be lit up, wherever they stand in it, whole. */
export function litIn(text: string, words: string[]): { text: string; lit: boolean }[] {
  const sought = words.filter((word) => word.trim() !== '').map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&').replace(/\s+/g, '\\s+'))
  if (!sought.length) return [{ text, lit: false }]
  const found = new RegExp(`(?<![\\p{L}\\p{N}])(${sought.join('|')})(?![\\p{L}\\p{N}])`, 'giu')
  return text.split(found).map((part, at) => ({ text: part, lit: at % 2 === 1 })).filter((part) => part.text !== '')
}

export function ending(line: Pick<InquiryLine, 'state' | 'outcome' | 'trust'>): string {
  if (line.state !== 'ended') return line.state
  if (line.outcome === 'clarify') return 'asked back'
  return line.trust ?? (line.outcome === 'unanswerable' ? 'not in the data' : (line.outcome ?? 'ended'))
}

/** The places of findings in a draft, for marking them there. */
export function marksOf(findings: Finding[]): { start: number; end: number; message: string }[] {
  return findings
    .filter((f) => f.start !== null && f.end !== null)
    .map((f) => ({ start: f.start!, end: f.end!, message: `${f.message} ${f.hint}` }))
}
