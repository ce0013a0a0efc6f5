// From events to the stops of the course: which station, on which lane, in what state.
import type { Finding, TrailEvent } from '../../api/types'
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

const STATION_OF: Record<string, Station> = {
  accepted: 'asked', briefed: 'briefing', prompted: 'model', replied: 'reply', planned: 'dry run', ran: 'run',
  stumbled: 'run', 'asked-back': 'briefing', compared: 'end', ended: 'end',
}

const OUTCOMES: Record<string, string> = { clarify: 'asked back' }

/** Stops in the order in which they were reached; findings belong to the stop before them. */
export function stopsOf(events: TrailEvent[]): Stop[] {
  const stops: Stop[] = []
  const first = events[0]
  const drafts = Math.max(1, ...events.filter((e) => !e.facts.duty && e.kind !== 'compared').map((e) => e.facts.number ?? 1))
  for (const event of events) {
    const last = stops.at(-1)
    const reviewed = event.kind === 'found' && event.facts.on === 'draft'
    const station = reviewed ? 'review' : event.kind === 'ruled' ? (event.facts.on === 'plan' ? 'plan' : 'guard') : STATION_OF[event.kind]
    if (station === undefined) {
      if (last) {
        last.events.push(event)
        if (event.kind === 'found' && last.station === 'reply') last.halted = true
      }
      continue
    }
    const duty = event.kind === 'compared' ? 'second opinion' : (event.facts.duty ?? '')
    const own = stops.findLast((s) => !s.duty)
    const lane = duty ? drafts + 1 : (event.facts.number ?? own?.lane ?? 1)
    // Without an answer the line ends where it had come to; it does not reach the last station.
    const short = station === 'end' && event.facts.outcome !== 'answered' && last !== undefined
    stops.push({
      key: event.seq,
      station,
      column: short ? last.column + 1 : STATIONS.indexOf(station),
      lane: station === 'asked' || station === 'briefing' ? 1 : lane,
      halted: (short && event.facts.outcome !== 'clarify') || (reviewed && doubtful(event)) || event.kind === 'stumbled' || (event.kind === 'compared' && event.facts.agrees === false) || (event.kind === 'ruled' && event.facts.verdict !== 'run'),
      time: first ? milliseconds(Date.parse(event.at) - Date.parse(first.at)) : '',
      label: short ? OUTCOMES[event.facts.outcome] ?? event.facts.outcome : '',
      duty,
      said: sentence(event),
      events: [event],
    })
  }
  return stops
}

/** Whether review found something above info. */
function doubtful(event: TrailEvent): boolean {
  return event.facts.findings.some((f: Finding) => f.severity !== 'info')
}

export function sentence(event: TrailEvent): string {
  const f = event.facts
  switch (event.kind) {
    case 'accepted':
      return 'The question was taken in.'
    case 'briefed':
      return `The model is told of ${count(f.tables.length, 'table')} and ${count(f.examples, 'example')}, about ${f.tokens.toLocaleString('en')} tokens.`
    case 'asked-back':
      return `The question can be read in ${count(f.readings.length, 'way')}: ${f.readings.join('; ')}.`
    case 'compared':
      return f.agrees === null ? `The two could not be compared. ${event.texts.said ?? ''}` : f.agrees ? 'The second draft agrees.' : `The second draft comes to another result: ${event.texts.said ?? ''}.`
    case 'prompted':
      if (f.duty) return `${f.model} is asked for a second draft, without seeing the first.`
      return f.number === 1 ? `${f.model} is asked for a draft.` : `${f.model} is told what was wrong and asked again.`
    case 'replied':
      return `The reply has ${count(f.completion_tokens, 'token')}.`
    case 'ruled':
      return f.reason
    case 'found':
      return doubtful(event) ? 'Something about the draft is doubtful.' : 'The draft says what was asked, as far as can be seen.'
    case 'planned':
      return `The database would take ${count(f.steps.length, 'step')}.`
    case 'ran':
      return `${count(f.row_count, 'row')} in ${milliseconds(f.elapsed_ms)}${f.cut_by ? `, cut by the limit on ${f.cut_by}` : ''}.`
    case 'held':
      return `Held by the policy line ${f.policy_line}: somebody releases it.`
    case 'released':
      return `Released.${event.texts.note ? ` ${event.texts.note}` : ''}`
    case 'turned-down':
      return `Turned down.${event.texts.note ? ` ${event.texts.note}` : ''}`
    case 'stumbled':
      return `The run did not come to an end: ${event.texts.error ?? ''}.`
    case 'ended':
      return `${OUTCOMES[f.outcome] ?? f.outcome}${f.trust ? `, ${f.trust}` : ''}${f.attempts ? ` after ${count(f.attempts, 'attempt')}` : ''}.`
    default:
      return event.kind
  }
}
