// How values of a result are written. The rules stand in docs/design.md, "How values are written"; the service follows
// the same ones (contract/figures.py), and one table of cases (tests/data/figures.yaml) holds both.
import type { Cell, ResultColumn } from '../api/types'

export function isFigure(column: ResultColumn): boolean {
  return ['integer', 'number', 'decimal'].includes(column.type)
}

/** A value of a column, without its unit; nothing is a dash. `words` are those for true and false. */
export function written(value: Cell | boolean, column: ResultColumn, words: [string, string] = ['yes', 'no']): string {
  if (value === null) return '–'
  if (typeof value === 'boolean') return value ? words[0] : words[1]
  if (column.role || !isFigure(column)) return String(value)
  const text = plainly(String(value))
  if (text === null) return String(value)
  if (column.type === 'integer') return grouped(text)
  const places = column.decimals ?? 2
  const rounded = roundedTo(text, places)
  if (/[1-9]/.test(rounded) || !/[1-9]/.test(text)) return grouped(rounded.replace(/^-(?=[0.]*$)/, ''))
  // It would be a false zero.
  const short = Number(Number(value).toPrecision(3))
  return Math.abs(short) >= 0.000001 ? (plainly(String(short)) ?? String(short)) : String(short)
}

/** What values come to together, in digits; null where one of them is no number. On the digits, as all else here. */
export function together(values: Cell[], column: ResultColumn): string | null {
  const texts = values.filter((value) => value !== null).map((value) => plainly(String(value)))
  if (!texts.length || texts.some((text) => text === null)) return null
  const places = Math.max(column.type === 'integer' ? 0 : (column.decimals ?? 2), ...texts.map((text) => text!.split('.')[1]?.length ?? 0))
  const sum = texts.reduce((all, text) => {
    const [whole = '0', fraction = ''] = text!.replace('-', '').split('.')
    const worth = BigInt(whole + fraction.padEnd(places, '0'))
    return text!.startsWith('-') ? all - worth : all + worth
  }, 0n)
  const digits = String(sum < 0n ? -sum : sum).padStart(places + 1, '0')
  return `${sum < 0n ? '-' : ''}${places ? `${digits.slice(0, -places)}.${digits.slice(-places)}` : digits}`
}

/** A number in digits alone, without an exponent; null where it is none, or has more than 21 digits before the point. */
function plainly(text: string): string | null {
  const parts = /^(-?)(\d+)(?:\.(\d+))?(?:[eE]([+-]?\d+))?$/.exec(text)
  if (!parts) return null
  const [, sign = '', whole = '', fraction = '', exponent = '0'] = parts
  const shift = Number(exponent)
  if (Math.abs(shift) > 400) return null
  const digits = whole + fraction
  const point = whole.length + shift
  const padded = point <= 0 ? '0'.repeat(1 - point) + digits : digits.padEnd(point, '0')
  const at = point <= 0 ? 1 : point
  const before = padded.slice(0, at).replace(/^0+(?=\d)/, '')
  if (before.length > 21) return null
  const after = padded.slice(at)
  return sign + before + (after ? `.${after}` : '')
}

/** Half goes away from zero. On the digits themselves: a number of the browser's keeps fifteen of them. */
function roundedTo(text: string, places: number): string {
  const sign = text.startsWith('-') ? '-' : ''
  const [whole = '0', fraction = ''] = text.replace('-', '').split('.')
  const kept = BigInt(whole + fraction.slice(0, places).padEnd(places, '0')) + ((fraction[places] ?? '0') >= '5' ? 1n : 0n)
  const digits = String(kept).padStart(places + 1, '0')
  return sign + (places ? `${digits.slice(0, -places)}.${digits.slice(-places)}` : digits)
}

/** Thousands set off. */
function grouped(text: string): string {
  const [whole = '', fraction] = text.split('.')
  return whole.replace(/\B(?=(\d{3})+$)/g, ',') + (fraction === undefined ? '' : `.${fraction}`)
}
