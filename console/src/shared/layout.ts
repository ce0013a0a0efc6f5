// SQL laid out for reading, with the places that are marked in it where they have come to stand.
import { format } from 'sql-formatter'

export interface Mark {
  /** In code points. */
  start: number
  end: number
  message: string
}

const BLANK = /\s/u

/** Laying out moves blanks and changes the case of words, nothing else; where it did more, the SQL stays as written. */
export function laidOut(sql: string, marks: Mark[]): { points: string[]; marks: Mark[] } {
  const before = [...sql]
  let text: string
  try {
    text = format(sql, { language: 'sqlite', keywordCase: 'upper' })
  } catch {
    return { points: before, marks }
  }
  const after = [...text]
  const [from, to] = [signs(before), signs(after)]
  if (from.length !== to.length || from.some((at, i) => before[at]!.toLowerCase() !== after[to[i]!]!.toLowerCase())) {
    return { points: before, marks }
  }
  // Where the sign of that number stands now; a mark reaches from its first sign to its last.
  const moved = marks.map((mark) => {
    const first = firstAt(from, mark.start)
    const last = firstAt(from, mark.end) - 1
    return last < first ? { ...mark, start: 0, end: 0 } : { ...mark, start: to[first]!, end: to[last]! + 1 }
  })
  return { points: after, marks: moved.filter((m) => m.end > m.start) }
}

/** The places of all that is no blank. */
function signs(points: string[]): number[] {
  return points.flatMap((point, at) => (BLANK.test(point) ? [] : [at]))
}

/** The index of the first of ascending numbers that is not below one; their count where there is none. */
function firstAt(ascending: number[], least: number): number {
  const found = ascending.findIndex((n) => n >= least)
  return found < 0 ? ascending.length : found
}
