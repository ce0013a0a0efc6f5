// What an inquiry is at, in stages that people understand, and what each has taken so far: made from its events.
// src/harquel/contract/stages.py follows the same rules, and one table of cases (tests/data/stages.json) holds both.
import type { TrailEvent } from '../api/types'

export const STAGES = ['preparing', 'following', 'reading', 'drafting', 'checking', 'running', 'another-way', 'wording', 'answering'] as const
export type Stage = (typeof STAGES)[number]

export interface Happened {
  kind: string
  /** In milliseconds, by any clock. */
  at: number
  duty?: string
  on?: string
}

export interface Spent {
  stage: Stage
  /** In milliseconds. */
  taken: number
  open: boolean
}

const BESIDE = new Set(['control', 'second opinion'])
const LAST = new Set(['ended', 'held', 'asked-back'])
const NEXT: Record<string, Stage> = {
  accepted: 'preparing', restated: 'preparing', briefed: 'preparing', replied: 'checking', ruled: 'checking', planned: 'checking',
  stumbled: 'checking', released: 'checking', ran: 'answering', compared: 'answering',
}

export function happened(events: TrailEvent[]): Happened[] {
  return events.map((e) => ({
    kind: e.kind, at: Date.parse(e.at), duty: 'duty' in e.facts ? (e.facts.duty ?? '') : '', on: 'on' in e.facts ? (e.facts.on ?? '') : '',
  }))
}

/** Those that an inquiry has been in, in their order; `now` by the clock of the events. */
export function stagesOf(events: Happened[], now: number): Spent[] {
  const taken = new Map<Stage, number>()
  const lanes = new Map<boolean, { at: number; stage: Stage | null }>()
  for (const event of events) {
    const beside = BESIDE.has(event.duty ?? '') && event.kind !== 'compared'
    const before = lanes.get(beside) ?? { at: event.at, stage: null }
    if (before.stage) taken.set(before.stage, (taken.get(before.stage) ?? 0) + event.at - before.at)
    lanes.set(beside, { at: event.at, stage: after(event, before.stage) })
    if (event.kind === 'compared' || LAST.has(event.kind)) lanes.delete(true)
    if (LAST.has(event.kind)) lanes.delete(false)
  }
  const open = new Set<Stage>()
  for (const { at, stage } of lanes.values()) {
    if (!stage) continue
    open.add(stage)
    taken.set(stage, (taken.get(stage) ?? 0) + Math.max(0, now - at))
  }
  return STAGES.filter((stage) => taken.has(stage)).map((stage) => ({ stage, taken: taken.get(stage)!, open: open.has(stage) }))
}

/** What goes on after an event, in its lane. */
function after(event: Happened, before: Stage | null): Stage | null {
  const duty = event.duty ?? ''
  if (BESIDE.has(duty) && event.kind !== 'compared') {
    if (event.kind === 'replied') return null
    return event.kind === 'prompted' && duty === 'control' ? 'reading' : 'another-way'
  }
  if (event.kind === 'prompted') return duty === 'follow-up' ? 'following' : duty === 'word' ? 'wording' : 'drafting'
  if (event.kind === 'replied' && duty) return duty === 'follow-up' ? 'preparing' : 'answering'
  if (event.kind === 'ruled' && event.on === 'plan') return 'running'
  return NEXT[event.kind] ?? before
}
