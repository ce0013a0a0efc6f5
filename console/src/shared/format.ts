// Figures, instants and durations as people write them.
import type { Finding, InquiryLine, ResultTable } from '../api/types'
import { isFigure, written } from './figures'

/** An instant as clocks show it to whoever looks: the form is that of ISO, whatever the language. */
export function moment(iso: string): string {
  return new Date(iso).toLocaleString('sv-SE', { dateStyle: 'short', timeStyle: 'short' })
}

/** The same with the zone that it is in. */
export function instant(iso: string): string {
  const zone = new Intl.DateTimeFormat('en-GB', { timeZoneName: 'short' }).formatToParts(new Date(iso)).find((p) => p.type === 'timeZoneName')
  return `${moment(iso)} ${zone?.value ?? ''}`.trim()
}

export function milliseconds(ms: number): string {
  return ms >= 1000 ? `${(ms / 1000).toFixed(ms >= 10_000 ? 1 : 2)} s` : `${Math.round(ms)} ms`
}

/** Rows whose figures are set off in a sentence. */
const LOOKED_AT = 1000

/** Splits a sentence so that the figures of its table can be set off: no year, no day, however either is written. */
export function figuresIn(text: string, table: ResultTable | undefined): { text: string; figure: boolean }[] {
  const digits = (figure: string): string => figure.replace(/\D/g, '')
  const places = table?.columns.flatMap((column, place) => (isFigure(column) && !column.role ? [place] : [])) ?? []
  const shown = new Set(table?.rows.slice(0, LOOKED_AT).flatMap((row) => places.map((place) => digits(written(row[place] ?? null, table.columns[place]!)))))
  return text
    .split(/((?<![\w:.,-])-?\d+(?:[.,]\d+)*(?![\w:-]|[.,]\d))/)
    .filter((part) => part !== '')
    .map((part) => ({ text: part, figure: /^-?\d[\d.,]*$/.test(part) && shown.has(digits(part)) }))
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
