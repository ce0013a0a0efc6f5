// From events to stops: where each stands, what it says, on which lane.
import { describe, expect, it } from 'vitest'
import type { TrailEvent } from '../src/api/types'
import { legsOf, stopsOf } from '../src/components/Course/stops'
import { sentence, STATION_OF, stationOf } from '../src/shared/events'

let seq = 0
function told(kind: TrailEvent['kind'], facts: object = {}, texts: Record<string, string> = {}): TrailEvent {
  seq += 1
  const at = new Date(Date.UTC(2026, 8, 14, 10, 0, 0, seq)).toISOString()
  return { seq, at, who: 'Ada Brinewell', kind, inquiry: 'a', facts, texts, digest: '' } as unknown as TrailEvent
}

const RULED = { number: 1, on: 'text', verdict: 'run', reason: 'It only reads.', policy_line: 'reads' }
const DOUBT = { rule: 'unit', severity: 'warning', message: 'In what?' }
const FULL = [
  told('accepted', {}, { question: 'How many?' }),
  told('briefed', { tables: ['a', 'b'], examples: 1, tokens: 1200 }),
  told('prompted', { number: 1, model: 'careful' }),
  told('replied', { number: 1, completion_tokens: 1 }),
  told('ruled', RULED),
  told('found', { number: 1, on: 'draft', findings: [DOUBT] }),
  told('prompted', { number: 2, model: 'careful' }),
  told('replied', { number: 2, completion_tokens: 40 }),
  told('ruled', { ...RULED, number: 2 }),
  told('found', { number: 2, on: 'draft', findings: [] }),
  told('planned', { number: 2, steps: ['SCAN a'], rows: null }),
  told('ruled', { ...RULED, number: 2, on: 'plan' }),
  told('ran', { number: 2, row_count: 3, elapsed_ms: 1.5, cut_by: null, bytes: 3 }),
  told('ended', { outcome: 'answered', trust: 'clear', attempts: 2 }),
]

const RAN = told('ran', { number: 1, row_count: 3, elapsed_ms: 1.5, cut_by: null, bytes: 3 })

describe('legs', () => {
  it('lead along each lane, and between lanes only where one begins or is compared', () => {
    const control = { number: 1, model: 'other', duty: 'control' }
    const stops = stopsOf([
      ...FULL.slice(0, 3), told('prompted', control), told('replied', { ...control, completion_tokens: 9 }), FULL[3]!, RAN,
      told('ran', { ...control, row_count: 1, elapsed_ms: 1, cut_by: null, bytes: 3 }),
      told('compared', { number: 1, agrees: true }, { said: 'the same' }), FULL.at(-1)!,
    ])
    const named = (s: (typeof stops)[number]): string => `${s.duty}${s.label || s.station}`
    expect(legsOf(stops).map(({ from, to }) => `${named(from)} > ${named(to)}`)).toEqual([
      'asked > briefing', 'briefing > model', 'briefing > controlmodel', 'controlmodel > controlreply', 'model > reply',
      'reply > run', 'controlreply > controlrun', 'run > compared', 'controlrun > compared', 'compared > end',
    ])
  })

  it('end behind both runs where what the two come to is asked back', () => {
    const run = told('ran', { number: 1, duty: 'control', row_count: 1, elapsed_ms: 1, cut_by: null, bytes: 3 })
    const back = [told('asked-back', { readings: ['x: 1', 'y: 2'] }), told('ended', { outcome: 'clarify' })]
    const stops = stopsOf([...FULL.slice(0, 4), RAN, run, ...back])
    expect(stops.slice(-1).map((s) => [s.station, s.label, s.lane, s.column])).toEqual([['end', 'asked back', 1, 9]])
    expect(legsOf(stops).slice(-2).map(({ from, to }) => `${from.duty}${from.station} > ${to.label}`)).toEqual([
      'run > asked back', 'controlrun > asked back',
    ])
  })
})

describe('stops', () => {
  it('stand where they belong, a repair on a lane of its own', () => {
    const stops = stopsOf(FULL)
    expect(stops.map((s) => s.station)).toEqual([
      'asked', 'briefing', 'model', 'reply', 'guard', 'review', 'model', 'reply', 'guard', 'review', 'dry run', 'plan', 'run', 'end',
    ])
    expect(stops.map((s) => s.lane)).toEqual([1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 2, 2])
    expect(stops.filter((s) => s.halted).map((s) => s.station)).toEqual(['review'])
  })

  it('put what was done for something else on the last lane', () => {
    const second = [told('prompted', { number: 2, model: 'other', duty: 'second opinion' })]
    const stops = stopsOf([...FULL.slice(0, -1), ...second])
    expect(stops.slice(-1).map((s) => [s.duty, s.lane, s.halted])).toEqual([['second opinion', 3, false]])
  })

  it('take what is found about one statement to its own run, whichever ran last', () => {
    const beside = told('ran', { number: 1, duty: 'control', row_count: 1, elapsed_ms: 1, cut_by: null, bytes: 3 })
    const stops = stopsOf([...FULL.slice(0, 4), RAN, beside, told('found', { number: 1, on: '', findings: [DOUBT] })])
    expect(stops.slice(-2).map((s) => s.events.map((e) => e.kind))).toEqual([['ran', 'found'], ['ran']])
  })

  it('hold a comparison against the draft that it is about, once', () => {
    const compared = (number: number, agrees: boolean) => told('compared', { number, agrees, model: 'other' }, { said: 'one more' })
    const stops = stopsOf([...FULL.slice(0, -1), compared(1, false), compared(2, false), compared(2, true), FULL.at(-1)!])
    expect(stops.slice(-3).map((s) => [s.label || s.station, s.lane, s.halted])).toEqual([
      ['compared', 1, true], ['compared', 2, false], ['end', 2, false],
    ])
  })

  it('end where they had come to when there is no answer', () => {
    const stops = stopsOf([...FULL.slice(0, 2), told('asked-back', { readings: ['x', 'y'] }), told('ended', { outcome: 'clarify' })])
    const last = stops.at(-1)!
    expect([last.label, last.halted, last.column]).toEqual(['asked back', false, 2])
    const refused = stopsOf([FULL[0]!, told('ended', { outcome: 'refused' })]).at(-1)!
    expect([refused.label, refused.halted]).toEqual(['refused', true])
  })

  it('take along what has no station of its own', () => {
    const stops = stopsOf([...FULL.slice(0, 5), told('held', { policy_line: 'approval' }), told('released', {}, { note: 'Fine.' })])
    expect(stops.at(-1)!.events.map((e) => e.kind)).toEqual(['ruled', 'held', 'released'])
  })
})

describe('sentences', () => {
  it('there is one for every kind', () => {
    const facts = { findings: [], tables: [], readings: [], steps: [], tokens: 0, examples: 0, completion_tokens: 0, row_count: 0, elapsed_ms: 0, reason: 'Why.' }
    for (const kind of Object.keys(STATION_OF) as TrailEvent['kind'][]) {
      expect(sentence(told(kind, facts)).length).toBeGreaterThan(kind === 'ended' ? 0 : 3)
    }
  })

  it.each([
    [FULL[1]!, 'The model is told of 2 tables and 1 example, about 1,200 tokens.'],
    [FULL[3]!, 'The reply has 1 token.'],
    [FULL[6]!, 'careful is told what was wrong and asked again.'],
    [FULL[13]!, 'answered, clear after 2 attempts.'],
    [told('ran', { row_count: 1, elapsed_ms: 2, cut_by: 'rows' }), '1 row in 2 ms, cut by the limit on rows.'],
    [told('turned-down', {}, { note: 'Too much.' }), 'Turned down. Too much.'],
    [told('compared', { agrees: null }, { said: 'cut' }), 'The two could not be compared. cut'],
  ])('%#', (event, said) => expect(sentence(event)).toBe(said))

  it('a finding on a draft is review, on a reply it is not', () => {
    expect(stationOf(told('found', { on: 'draft', findings: [] }))).toBe('review')
    expect(stationOf(told('found', { on: '', findings: [DOUBT] }))).toBeNull()
  })
})
