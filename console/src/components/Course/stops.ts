// From events to the stops of the course: which station, on which lane, in what state.
import type { TrailEvent } from '../../api/types'
import { doubtful, dutyOf, numberOf, outcomeSaid, sentence, STATIONS, type Station, stationOf } from '../../shared/events'
import { milliseconds } from '../../shared/format'

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

const COMPARED = 'compared'
const ASKED = 'asked back'

/** Stops in the order in which they were reached; findings belong to the stop before them. */
export function stopsOf(events: TrailEvent[]): Stop[] {
  const stops: Stop[] = []
  const first = events[0]
  const drafts = Math.max(1, ...events.filter((e) => !dutyOf(e)).map((e) => numberOf(e) ?? 1))
  for (const event of events) {
    // Two statements run at the same time: what is found about one may come after the other's run.
    const last = stops.findLast((s) => s.duty === dutyOf(event)) ?? stops.at(-1)
    const station = stationOf(event)
    if (station === null) {
      if (last) {
        last.events.push(event)
        if (event.kind === 'found' && last.station === 'reply') last.halted = true
      }
      continue
    }
    if (event.kind === 'compared') {
      compare(stops, event, first)
      continue
    }
    if (event.kind === 'asked-back' && stops.some((s) => s.station === 'run')) {
      // What two ways come to is asked back at the end of both.
      stops.findLast((s) => !s.duty)?.events.push(event)
      continue
    }
    const duty = dutyOf(event)
    const own = stops.findLast((s) => !s.duty)
    const lane = duty ? drafts + 1 : (numberOf(event) ?? own?.lane ?? 1)
    // Without an answer the line ends where it had come to; it does not reach the last station.
    const outcome = event.kind === 'ended' ? (event.facts.outcome ?? '') : ''
    const short = event.kind === 'ended' && outcome !== 'answered' && last !== undefined
    stops.push({
      key: event.seq,
      station,
      column: short ? Math.floor(last.column) + 1 : STATIONS.indexOf(station),
      lane: station === 'asked' || station === 'briefing' ? 1 : lane,
      halted: (short && outcome !== 'clarify') || stopsHere(event),
      time: first ? milliseconds(Date.parse(event.at) - Date.parse(first.at)) : '',
      label: short ? outcomeSaid(outcome) : '',
      duty,
      said: sentence(event),
      events: [event],
    })
  }
  return stops
}

/** From which stop to which a line leads: along each lane, and between lanes where one begins or is compared. */
export function legsOf(stops: Stop[]): { from: Stop; to: Stop }[] {
  return stops.slice(1).flatMap((to, index) => {
    const before = stops.slice(0, index + 1)
    const along = before.findLast((s) => s.duty === to.duty)
    if (to.label === COMPARED || to.label === ASKED) {
      const aside = before.findLast((s) => s.duty)
      return [along, aside].flatMap((from) => (from ? [{ from, to }] : []))
    }
    // What is done beside the draft begins where both were ready for it.
    const own = before.filter((s) => !s.duty)
    const from = along ?? own.findLast((s) => s.column < to.column) ?? own.at(-1)
    return from ? [{ from, to }] : []
  })
}

/** A comparison stands behind the run of the draft that it is about; what is compared again is the same stop. */
function compare(stops: Stop[], event: TrailEvent & { kind: 'compared' }, first: TrailEvent | undefined): void {
  const lane = event.facts.number
  const halted = event.facts.agrees === false
  const before = stops.find((s) => s.label === COMPARED && s.lane === lane)
  if (before) {
    before.events.push(event)
    Object.assign(before, { halted, said: sentence(event) })
    return
  }
  stops.push({
    key: event.seq, station: 'run', column: STATIONS.indexOf('run') + 0.5, lane, halted, label: COMPARED, duty: '',
    time: first ? milliseconds(Date.parse(event.at) - Date.parse(first.at)) : '', said: sentence(event), events: [event],
  })
}

function stopsHere(event: TrailEvent): boolean {
  switch (event.kind) {
    case 'found':
      return event.facts.on === 'draft' && doubtful(event.facts.findings)
    case 'stumbled':
      return true
    case 'ruled':
      return event.facts.verdict !== 'run'
    default:
      return false
  }
}
