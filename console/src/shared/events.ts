// What can happen to an inquiry: where it stands on the course, and what it says. A kind that is missing here does not compile.
import type { TrailEvent } from '../api/types'
import { milliseconds } from './format'
import { say, sayOf } from './say'

export const STATIONS = ['asked', 'briefing', 'model', 'reply', 'guard', 'review', 'dry run', 'plan', 'run', 'end'] as const
export type Station = (typeof STATIONS)[number]

/** Null: it belongs to the stop before it. */
export const STATION_OF: Record<TrailEvent['kind'], Station | null> = {
  accepted: 'asked', restated: null, briefed: 'briefing', 'asked-back': 'briefing', prompted: 'model', replied: 'reply', ruled: 'guard',
  found: null, planned: 'dry run', ran: 'run', stumbled: 'run', compared: 'end', ended: 'end', held: null,
  released: null, 'turned-down': null, 'cancel-asked': null, 'starter-tried': null, delivered: 'run', 'taken-away': null,
  'file-deleted': null, 'sent-on': null, arrived: null, 'not-arrived': null, 'told-in-chat': null,
}

/** An outcome as people say it. */
export function outcomeSaid(outcome: string): string {
  return sayOf('ending', outcome === 'clarify' ? 'asked back' : outcome === 'unanswerable' ? 'not in the data' : outcome)
}

export function stationOf(event: TrailEvent): Station | null {
  if (event.kind === 'found' && event.facts.on === 'draft') return 'review'
  if (event.kind === 'ruled' && event.facts.on === 'plan') return 'plan'
  return STATION_OF[event.kind]
}

/** What it was done for, when not for the answer itself. */
export function dutyOf(event: TrailEvent): string {
  if (event.kind === 'compared') return 'second opinion'
  return 'duty' in event.facts ? (event.facts.duty ?? '') : ''
}

/** The attempt that it belongs to. */
export function numberOf(event: TrailEvent): number | undefined {
  return 'number' in event.facts ? event.facts.number : undefined
}

/** Whether there is something above info. */
export function doubtful(findings: { severity: string }[]): boolean {
  return findings.some((f) => f.severity !== 'info')
}

function came(f: { row_count: number; elapsed_ms: number; cut_by: 'rows' | 'bytes' | null }) {
  return { rows: say('n-rows', { n: f.row_count }), time: milliseconds(f.elapsed_ms), cut: f.cut_by ? say(`cut-by-${f.cut_by}`) : '' }
}

/** What happened, in a sentence. */
export function sentence(event: TrailEvent): string {
  switch (event.kind) {
    case 'accepted':
    case 'starter-tried':
      return say('event-accepted')
    case 'restated':
      return say(`event-restated-${event.facts.by ?? 'model'}`, { question: event.texts.question ?? '' })
    case 'briefed': {
      const f = event.facts
      return say('event-briefed', { tables: say('n-tables', { n: f.tables.length }), examples: say('n-examples', { n: f.examples }), n: f.tokens })
    }
    case 'asked-back':
      return say('event-asked-back', { ways: say('n-ways', { n: event.facts.readings.length }), readings: event.facts.readings.join('; ') })
    case 'compared':
      if (event.facts.agrees === null) return say('event-not-compared', { said: event.texts.said ?? '' })
      return event.facts.agrees ? say('event-same') : say('event-another', { said: event.texts.said ?? '' })
    case 'prompted':
      if (event.facts.duty === 'follow-up') return say('event-prompted-follow-up', { model: event.facts.model })
      if (event.facts.duty === 'control') return say('event-prompted-control', { model: event.facts.model })
      if (event.facts.duty === 'word') return say('event-prompted-word', { model: event.facts.model })
      if (event.facts.duty) return say('event-prompted-second', { model: event.facts.model })
      return say(event.facts.number === 1 ? 'event-prompted-first' : 'event-prompted-again', { model: event.facts.model })
    case 'replied':
      if (event.facts.reused) return say('event-replied-reused')
      return say('event-replied', { tokens: say('n-tokens', { n: event.facts.completion_tokens }) })
    case 'ruled':
      return event.facts.reason
    case 'found':
      return say(doubtful(event.facts.findings) ? 'event-doubtful' : 'event-not-doubtful')
    case 'planned':
      return say('event-planned', { steps: say('n-steps', { n: event.facts.steps.length }) })
    case 'ran': {
      const f = event.facts
      return say('event-ran', came(f))
    }
    case 'delivered': {
      const f = event.facts
      return say('event-delivered', came(f))
    }
    case 'taken-away':
      return say('event-taken-away', { form: event.facts.form })
    case 'file-deleted':
      return say(event.facts.why === 'expired' ? 'event-file-expired' : 'event-file-unfinished')
    case 'sent-on':
      return say('event-sent-on', { destination: event.facts.destination ?? '' })
    case 'arrived':
      return say('event-arrived', { destination: event.facts.destination ?? '', n: event.facts.tries ?? 0 })
    case 'not-arrived':
      return say('event-not-arrived', { destination: event.facts.destination ?? '', why: event.facts.why ?? '' })
    case 'told-in-chat':
      return say(event.facts.alone ? 'event-told-alone' : 'event-told-openly', { chat: event.facts.chat ?? '', place: event.facts.place ?? '' })
    case 'held':
      return say('event-held', { line: event.facts.policy_line })
    case 'released':
      return `${say('event-released')}${event.texts.note ? ` ${event.texts.note}` : ''}`
    case 'turned-down':
      return `${say('event-turned-down')}${event.texts.note ? ` ${event.texts.note}` : ''}`
    case 'cancel-asked':
      return say('event-cancel-asked')
    case 'stumbled':
      return say('event-stumbled', { error: event.texts.error ?? '' })
    case 'ended': {
      const f = event.facts
      const said = `${outcomeSaid(f.outcome ?? '')}${f.trust ? `, ${sayOf('ending', f.trust)}` : ''}`
      return `${f.attempts ? say('event-after-attempts', { said, attempts: say('n-attempts', { n: f.attempts }) }) : said}.`
    }
    default:
      // A kind of a newer service; one of ours that is missing above does not compile.
      return (event satisfies never as TrailEvent).kind
  }
}
