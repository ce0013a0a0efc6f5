// What can happen to an inquiry: where it stands on the course, and what it says. A kind that is missing here does not compile.
import type { TrailEvent } from '../api/types'
import { count, milliseconds } from './format'

export const STATIONS = ['asked', 'briefing', 'model', 'reply', 'guard', 'review', 'dry run', 'plan', 'run', 'end'] as const
export type Station = (typeof STATIONS)[number]

/** Null: it belongs to the stop before it. */
export const STATION_OF: Record<TrailEvent['kind'], Station | null> = {
  accepted: 'asked', briefed: 'briefing', 'asked-back': 'briefing', prompted: 'model', replied: 'reply', ruled: 'guard',
  found: null, planned: 'dry run', ran: 'run', stumbled: 'run', compared: 'end', ended: 'end', held: null,
  released: null, 'turned-down': null, 'cancel-asked': null, 'starter-tried': null, delivered: 'run', 'taken-away': null,
  'file-deleted': null,
}

const OUTCOMES: Record<string, string> = { clarify: 'asked back' }

/** An outcome as people say it. */
export function outcomeSaid(outcome: string): string {
  return OUTCOMES[outcome] ?? outcome
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

/** What happened, in a sentence. */
export function sentence(event: TrailEvent): string {
  switch (event.kind) {
    case 'accepted':
    case 'starter-tried':
      return 'The question was taken in.'
    case 'briefed': {
      const f = event.facts
      return `The model is told of ${count(f.tables.length, 'table')} and ${count(f.examples, 'example')}, about ${f.tokens.toLocaleString('en')} tokens.`
    }
    case 'asked-back':
      return `The question can be read in ${count(event.facts.readings.length, 'way')}: ${event.facts.readings.join('; ')}.`
    case 'compared':
      if (event.facts.agrees === null) return `The two could not be compared. ${event.texts.said ?? ''}`
      return event.facts.agrees ? 'The second way comes to the same.' : `The second way comes to another result: ${event.texts.said ?? ''}.`
    case 'prompted':
      if (event.facts.duty === 'control') return `${event.facts.model} is asked how it reads the question, without seeing the draft.`
      if (event.facts.duty === 'word') return `${event.facts.model} is asked to put the result into words.`
      if (event.facts.duty) return `${event.facts.model} is asked for a second draft, without seeing the first.`
      return event.facts.number === 1 ? `${event.facts.model} is asked for a draft.` : `${event.facts.model} is told what was wrong and asked again.`
    case 'replied':
      return `The reply has ${count(event.facts.completion_tokens, 'token')}.`
    case 'ruled':
      return event.facts.reason
    case 'found':
      return doubtful(event.facts.findings) ? 'Something about the draft is doubtful.' : 'The draft says what was asked, as far as can be seen.'
    case 'planned':
      return `The database would take ${count(event.facts.steps.length, 'step')}.`
    case 'ran': {
      const f = event.facts
      return `${count(f.row_count, 'row')} in ${milliseconds(f.elapsed_ms)}${f.cut_by ? `, cut by the limit on ${f.cut_by}` : ''}.`
    }
    case 'delivered': {
      const f = event.facts
      return `${count(f.row_count, 'row')} written to a file in ${milliseconds(f.elapsed_ms)}${f.cut_by ? `, cut by the limit on ${f.cut_by}` : ''}.`
    }
    case 'taken-away':
      return `The file was taken away as ${event.facts.form}.`
    case 'file-deleted':
      return event.facts.why === 'expired' ? 'The file was deleted: its time was over.' : 'The file was deleted: it was never finished.'
    case 'held':
      return `Held by the policy line ${event.facts.policy_line}: somebody releases it.`
    case 'released':
      return `Released.${event.texts.note ? ` ${event.texts.note}` : ''}`
    case 'turned-down':
      return `Turned down.${event.texts.note ? ` ${event.texts.note}` : ''}`
    case 'cancel-asked':
      return 'Somebody wants it to stop.'
    case 'stumbled':
      return `The run did not come to an end: ${event.texts.error ?? ''}.`
    case 'ended': {
      const f = event.facts
      const outcome = f.outcome ?? ''
      return `${outcomeSaid(outcome)}${f.trust ? `, ${f.trust}` : ''}${f.attempts ? ` after ${count(f.attempts, 'attempt')}` : ''}.`
    }
    default:
      // A kind of a newer service; one of ours that is missing above does not compile.
      return (event satisfies never as TrailEvent).kind
  }
}
