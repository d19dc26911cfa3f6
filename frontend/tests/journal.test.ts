import { expect, test } from 'vitest'

import type { Schemas } from '@/api/client'
import { current, listed } from '@/format'
import { dayInWords, doneIn } from '@/journal'

const evening = (fields: Partial<Schemas['EveningView']>) =>
  ({ made: [], proved: [], found: [], photos: 0, edits: [], ...fields }) as unknown as Schemas['EveningView']

test('an evening tells what was done, and nothing of what was not', () => {
  expect(doneIn(evening({}), 3)).toEqual([])
  const lines = doneIn(evening({ made: ['W1', 'W2'], photos: 1, found: ['W9 was loose'], edits: ['first', 'second', 'third', 'last'] } as never), 2)
  expect(lines).toEqual(['Wires: W1, W2', 'Found and mended: W9 was loose', '1 photo', 'Changed: last; third and 2 more'])
  expect(doneIn(evening({ photos: 4 }), 2)).toEqual(['4 photos'])
})

test('a day is the day that it was, wherever the builder lives', () => {
  expect(dayInWords('2026-03-01')).toMatch(/^Sunday,? 1 March 2026$/)
})

test('of many things as many are named as are asked for', () => {
  expect([listed([], 2), listed(['a'], 2), listed(['a', 'b'], 2), listed(['a', 'b', 'c'], 2)]).toEqual(['', 'a', 'a, b', 'a, b and 1 more'])
})

test('a current is said in the unit that people say it in', () => {
  const said = [0, 0.0004, 0.038, 0.0994, 0.0996, 0.994, 4.44, 9.96, 152.6, -0.02].map(current)
  expect(said).toEqual(['0.00 A', '0.4 mA', '38 mA', '99 mA', '0.10 A', '0.99 A', '4.4 A', '10 A', '153 A', '-20 mA'])
  expect(current(null)).toBe('–')
})
