import { describe, expect, it } from 'vitest'

import { inWords } from '@/changeWords'

const thing = (collection: string, id: string, before: object | null, after: object | null) => ({
  collection,
  id,
  before: before as Record<string, unknown> | null,
  after: after as Record<string, unknown> | null,
  index: 0,
})

describe('what an edit changes', () => {
  it('is counted by kind, one in the singular and six by name', () => {
    const lamps = Array.from({ length: 7 }, (_, at) => thing('parts', `l${at}`, null, { kind: 'load', name: `Lamp ${at}` }))
    const changes = [
      ...lamps,
      thing('parts', 's', null, { kind: 'switch', name: 'Fog switch' }),
      thing('wires', 'w', { label: 'W1' }, null),
      thing('runs', 'r', { from_place: 'dash' }, null),
      thing('circuits', 'c', null, { name: 'Fogs' }),
    ]
    expect(inWords(changes)).toEqual([
      { said: 'New', rows: ['7 loads: Lamp 0, Lamp 1, Lamp 2, Lamp 3, Lamp 4, Lamp 5 …', '1 switch: Fog switch'] },
      { said: 'Goes', rows: ['1 wire: W1', '1 run'] },
    ])
  })

  it('does not tell of what only moved among its like', () => {
    const moved = [thing('wires', 'w', { label: 'W1' }, null), thing('wires', 'w', null, { label: 'W1' })]
    expect(inWords(moved)).toEqual([])
  })
})
