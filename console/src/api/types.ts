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
  enabled: boolean
  origin: 'file' | 'records'
  where: string
  scanned_at: string | null
  version: number
  scanning: boolean
}

export interface CheckStep {
  name: string
  verdict: 'well' | 'warning' | 'failed' | 'skipped'
  said: string
  remedy: string
  elapsed_ms: number
}

export interface Check {
  where: string
  verdict: 'well' | 'warning' | 'failed'
  steps: CheckStep[]
}

export interface Scan {
  id: number
  state: 'running' | 'done' | 'stopped' | 'failed' | 'interrupted'
  stage: string
  tables: number
  done: number
  now: string
  problem: string
  hint: string
}

export interface CatalogColumn {
  name: string
  type: string
  nullable: boolean
  primary_key: boolean
  text: string
  unit: string | null
  codes: Record<string, string>
  samples: Cell[]
  synonyms: string[]
  null_means: string | null
  comment: string
  complete: boolean
  distinct: number | null
  null_share: number | null
  low: Cell
  high: Cell
  exposed: boolean
  personal: boolean
  proposed_personal: boolean
}

export interface CatalogTable {
  name: string
  kind: string
  text: string
  row_count: number | null
  estimated: boolean
  columns: CatalogColumn[]
  foreign_keys: { columns: string[]; table: string; references: string[]; declared_by: string }[]
  synonyms: string[]
  when: string | null
  label: string | null
  default_filter: string | null
  comment: string
  exposed: boolean
  readable: boolean
  problem: string
}

export interface Catalog {
  version: number
  scanned_at: string
  tables: CatalogTable[]
}

export interface Coverage {
  columns: number
  described: number
  share: number
}

export interface Example {
  id: number
  question: string
  sql: string
  tags: string[]
  author: string
  state: 'new' | 'checked' | 'stale' | 'off'
  said: string
  alike: number[]
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
  role: 'key' | 'year' | null
  decimals: number | null
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
  changes: { kind: 'added' | 'removed'; text: string }[]
  run: { row_count: number } | null
  rewritten_sql: string | null
  error: string | null
}

export interface SecondOpinion {
  model: string
  agrees: boolean | null
  said: string
  draft: { sql: string; explanation: string; model: string } | null
  findings: Finding[]
  rewritten_sql: string | null
  read_back: string | null
  table: ResultTable | null
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
    measures: { name: string; text: string; owner: string; version: number }[]
  } | null
  standalone_question: string | null
  follows: string | null
  choice: string | null
  clarify: { question: string; choices: { id: string; label: string }[] } | null
  second_opinion: SecondOpinion | null
  problem: { type: string; title: string; hint: string; policy_line: string | null } | null
  hold: { policy_line: string; reason: string; approved: boolean | null; by: string | null; note: string } | null
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
