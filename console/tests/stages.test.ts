import { expect, test } from 'vitest'
import { stagesOf } from '../src/shared/stages'
import written from '../../tests/data/stages.json?raw'

type Case = { name: string; now: number; events: [string, number, string?, string?][]; stages: [string, number, boolean][] }
const cases = JSON.parse(written) as Case[]

test.each(cases)('$name', ({ now, events, stages }) => {
  const found = stagesOf(events.map(([kind, at, duty, on]) => ({ kind, at, duty, on })), now)
  expect(found.map((one) => [one.stage, one.taken, one.open])).toEqual(stages)
})
