// From events to the stops of the course: which station, on which lane, in what state.
import type { TrailEvent } from '../../api/types'
import { count, milliseconds } from '../../shared/format'

export const STATIONS = ['asked', 'briefing', 'model', 'reply', 'guard', 'review', 'dry run', 'plan', 'run', 'end'] as const
export type Station = (typeof STATIONS)[number]

export interface Stop {
  key: number
  station: Station
  column: number
  lane: number
  halted: boolean
  time: string
  /** Said beside the time where the station's name would mislead. */
  label: string
  /** What it was done for, when not for the answer itself: it has a lane of its own. */
  duty: string
  said: string
  events: TrailEvent[]
}

// Null: it belongs to the stop before it.
const STATION_OF: Record<TrailEvent['kind'], Station | null> = {
  accepted: 'asked', briefed: 'briefing', 'asked-back': 'briefing', prompted: 'model', replied: 'reply', ruled: 'guard',
  found: null, planned: 'dry run', ran: 'run', stumbled: 'run', compared: 'end', ended: 'end', held: null,
  released: null, 'turned-down': null, 'cancel-asked': null, 'starter-tried': null,
}

const OUTCOMES: Record<string, string> = { clarify: 'asked back' }

/** Stops in the order in which they were reached; findings belong to the stop before them. */
export function stopsOf(events: TrailEvent[]): Stop[] {
  const stops: Stop[] = []
  const first = events[0]
  const drafts = Math.max(1, ...events.filter((e) => !dutyOf(e)).map((e) => numberOf(e) ?? 1))
  for (const event of events) {
    const last = stops.at(-1)
    const station = stationOf(event)
    if (station === null) {
      if (last) {
        last.events.push(event)
        if (event.kind === 'found' && last.station === 'reply') last.halted = true
      }
      continue
    }
    const duty = dutyOf(event)
    const own = stops.findLast((s) => !s.duty)
    const lane = duty ? drafts + 1 : (numberOf(event) ?? own?.lane ?? 1)
    // Without an answer the line ends where it had come to; it does not reach the last station.
    const outcome = event.kind === 'ended' ? (event.facts.outcome ?? '') : ''
    const short = station === 'end' && outcome !== 'answered' && last !== undefined
    stops.push({
      key: event.seq,
      station,
      column: short ? last.column + 1 : STATIONS.indexOf(station),
      lane: station === 'asked' || station === 'briefing' ? 1 : lane,
      halted: (short && outcome !== 'clarify') || stopsHere(event),
      time: first ? milliseconds(Date.parse(event.at) - Date.parse(first.at)) : '',
      label: short ? OUTCOMES[outcome] ?? outcome : '',
      duty,
      said: sentence(event),
      events: [event],
    })
  }
  return stops
}

function stationOf(event: TrailEvent): Station | null {
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

function stopsHere(event: TrailEvent): boolean {
  switch (event.kind) {
    case 'found':
      return event.facts.on === 'draft' && doubtful(event.facts.findings)
    case 'stumbled':
      return true
    case 'compared':
      return event.facts.agrees === false
    case 'ruled':
      return event.facts.verdict !== 'run'
    default:
      return false
  }
}

/** Whether there is something above info. */
function doubtful(findings: { severity: string }[]): boolean {
  return findings.some((f) => f.severity !== 'info')
}

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
      return event.facts.agrees ? 'The second draft agrees.' : `The second draft comes to another result: ${event.texts.said ?? ''}.`
    case 'prompted':
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
      return `${OUTCOMES[outcome] ?? outcome}${f.trust ? `, ${f.trust}` : ''}${f.attempts ? ` after ${count(f.attempts, 'attempt')}` : ''}.`
    }
    default:
      // A kind of a newer service; one of ours that is missing above does not compile.
      return (event satisfies never as TrailEvent).kind
  }
}
