// What is shown of texts that are not ours: signs that are not seen, SQL laid out, replies of models.
import { describe, expect, it } from 'vitest'
import { figuresIn, litIn } from '../src/shared/format'
import { laidOut } from '../src/shared/layout'
import { arriving, readReply } from '../src/shared/reply'
import { visible, visibly } from '../src/shared/visible'

describe('what is not seen is shown', () => {
  it('as the number of the sign, line breaks and tabs left as they are', () => {
    expect(visible('a\u202eb\u0007\n\tc')).toBe('a‹U+202E›b‹U+0007›\n\tc')
  })

  it('in every text of a JSON document, names of fields and numbers untouched', () => {
    expect(JSON.parse('{"a": ["x\u200b", 7, null], "b": {"c": "\\u202e"}}', visibly)).toEqual({
      a: ['x‹U+200B›', 7, null],
      b: { c: '‹U+202E›' },
    })
  })
})

describe('SQL is laid out', () => {
  /** A mark on the first place of a text, in code points. */
  const at = (sql: string, part: string) => {
    const start = [...sql.slice(0, sql.indexOf(part))].length
    return { start, end: start + [...part].length, message: part }
  }

  it('with marks on the same signs as before', () => {
    const sql = "select name, count(*) from vessel where status = 'Active' group by name"
    const { points, marks } = laidOut(sql, [at(sql, "'Active'"), at(sql, 'group by name')])
    expect(points.join('')).toContain('\n')
    expect(marks.map((m) => points.slice(m.start, m.end).join('').replace(/\s+/g, ' '))).toEqual(["'Active'", 'GROUP BY name'])
  })

  it('with marks counted in code points, not in halves of signs', () => {
    const sql = "select '🛳🛳' as ship, 'x' as y from vessel"
    const { points, marks } = laidOut(sql, [at(sql, "'x'")])
    expect(points.slice(marks[0]!.start, marks[0]!.end).join('')).toBe("'x'")
  })

  it('or stays as written where it cannot be, and marks of nothing go', () => {
    const broken = "select 'open"
    expect(laidOut(broken, []).points.join('')).toBe(broken)
    expect(laidOut('select 1', [{ start: 6, end: 7, message: '' }]).marks).toEqual([])
  })
})

describe('a reply of a model', () => {
  it('is read where it is JSON of ours, also with a fence and words around it', () => {
    expect(readReply('Here:\n```json\n{"sql": "SELECT 1", "explanation": "one"}\n```')).toEqual({ sql: 'SELECT 1', explanation: 'one' })
    expect(readReply('{"cannot": "not-in-data", "why": "no such thing"}')).toEqual({ sql: '', explanation: 'no such thing' })
  })

  it('and left alone where it is not', () => {
    for (const text of ['SELECT 1', '{"sql": 7}', '{broken', '[1]', '{"cannot": "x"}']) expect(readReply(text)).toBeNull()
  })

  it('shows as SQL while it arrives, however it is cut', () => {
    const whole = '{"sql": "SELECT \\"a\\"\\nFROM t\\u00e9", "explanation": "x"}'
    const shown = [...whole].map((_, n) => arriving(whole.slice(0, n)))
    expect(shown.at(-1)).toBe('SELECT "a"\nFROM té')
    for (let n = 1; n < shown.length; n++) expect(shown[n]!.length).toBeGreaterThanOrEqual(Math.min(shown[n - 1]!.length, shown[n]!.length))
    expect(arriving('plain words')).toBe('plain words')
  })
})

describe('words of a question are lit up', () => {
  const lit = (text: string, words: string[]) => litIn(text, words).filter((part) => part.lit).map((part) => part.text)

  it('whole, wherever they stand, whatever they are written with', () => {
    expect(lit('Sailings cancelled in August, cancelled late', ['cancelled', 'in  august'])).toEqual(['cancelled', 'in August', 'cancelled'])
    expect(lit('Uncancelled sailings (all)', ['cancelled', '(all)', ' '])).toEqual(['(all)'])
    expect(litIn('How many?', [])).toEqual([{ text: 'How many?', lit: false }])
    expect(litIn('Überfahrten im März', ['im März']).map((part) => part.text).join('')).toBe('Überfahrten im März')
  })
})

describe('the figures of a sentence are set off', () => {
  const column = (type: string, decimals: number | null = null) => ({ name: type, type, unit: null, role: null, decimals })
  const table = { columns: [column('text'), column('number', 2), column('integer')], rows: [['2026-08', 36395.2, 12], ['2026-07', -0.5, null]], row_count: 2, cut_by: null }
  const bold = (text: string) => figuresIn(text, table).filter((part) => part.figure).map((part) => part.text)

  it('where they stand in its table, and not where they are a year or a day', () => {
    expect(bold('In August 2026, on 13 September: 36,395.20 EUR (12).')).toEqual(['36,395.20', '12'])
    expect(figuresIn('Nothing.', undefined)).toEqual([{ text: 'Nothing.', figure: false }])
  })

  it('in the writing of any language', () => {
    expect(bold('QH-7 liegt mit 36.395,20 EUR vor -0,50 EUR.')).toEqual(['36.395,20', '-0,50'])
  })
})
