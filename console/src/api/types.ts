// The shapes of the HTTP contract that the console reads.
export type State = 'queued' | 'working' | 'held' | 'ended'
export type Outcome = 'answered' | 'clarify' | 'refused' | 'unanswerable' | 'failed' | 'cancelled'
export type Cell = string | number | boolean | null

export interface Me {
  person: string
  token: string
  scopes: string[]
  sources: string[]
}

export interface Source {
  name: string
  engine: string
  title: string
  as_of: string | null
  tables: number
  model: string
  starters: string[]
  problem: string | null
  hint: string | null
}

export interface InquiryLine {
  id: string
  state: State
  outcome: Outcome | null
  trust: 'clear' | 'caution' | null
  source: string
  question: string
  asked_by: string
  asked_at: string
}

export interface ResultColumn {
  name: string
  type: string
  unit: string | null
}

export interface ResultTable {
  columns: ResultColumn[]
  rows: Cell[][]
  row_count: number
  cut_by: 'rows' | 'bytes' | null
}

export interface Finding {
  rule: string
  severity: 'info' | 'warning' | 'error'
  message: string
  hint: string
  start: number | null
  end: number | null
}

export interface Attempt {
  number: number
  draft: { sql: string; explanation: string; model: string } | null
  rulings: { on: 'text' | 'plan'; verdict: string; policy_line: string; reason: string }[]
  findings: Finding[]
  rewritten_sql: string | null
  error: string | null
}

export interface Inquiry extends InquiryLine {
  as_of: string | null
  answer: {
    text: string
    caveats: { rule: string; message: string }[]
    sql: string
    read_back: string | null
    explanation: string
    table: ResultTable
  } | null
  problem: { type: string; title: string; hint: string; policy_line: string | null } | null
  briefing: { tables: { name: string; columns: string[]; reason: string }[]; examples: string[]; tokens: number } | null
  attempts: Attempt[]
  usage: { prompt_tokens: number; completion_tokens: number; calls: number; cost: string | null }
  timings: Record<string, number>
}

export interface Page<T> {
  items: T[]
  next: string | null
}

export interface TrailEvent {
  seq: number
  at: string
  kind: string
  facts: Record<string, any>
  texts: Record<string, string | null>
}
