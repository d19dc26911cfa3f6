import { describe, expect, it } from 'vitest'

import type { BuildView } from '@/api/client'
import { changed, copied, type ScenarioRow, typedAmps } from '@/scenarios'

const night = { id: 'night', name: 'Night', key: 'run', road: 'night', pace: 'town', engine_rpm: 1800, outside_c: 10, charge: 0.8, charges: true, measured_a: null } as ScenarioRow
const build = (...scenarios: object[]) => ({ scenarios }) as unknown as BuildView

describe('a scenario that is changed', () => {
  it('is kept whole from the first change on, and only changed from then', () => {
    const first = changed(build(), night, { outside_c: -5 })
    expect(first).toMatchObject({ op: 'add', collection: 'scenarios', value: { id: 'night', key: 'run', outside_c: -5, on: {}, shed: [] } })
    const kept = { id: 'night', on: { radio: 0.5 }, shed: ['fan'] }
    expect(changed(build(kept), night, { outside_c: 0 })).toEqual({ op: 'change', collection: 'scenarios', id: 'night', fields: { outside_c: 0 } })
  })
})

describe('a scenario that is copied', () => {
  const idOf = (operation: ReturnType<typeof copied>) => (operation as unknown as { value: { id: string } }).value.id

  it('has an id of its own each time, whatever it is called', () => {
    const ids: string[] = []
    for (const name of ['Night in the rain', 'Night in the rain', 'Night in the rain', '夜', '夜']) {
      ids.push(idOf(copied(build(...ids.map((id) => ({ id }))), night, name)))
    }
    expect(ids.slice(0, 3)).toEqual(['own-night-in-the-rain', 'own-night-in-the-rain-2', 'own-night-in-the-rain-3'])
    expect(new Set(ids).size).toBe(ids.length)
  })

  it('takes along what was set in the one before', () => {
    const kept = { ...night, on: { radio: 0.5 }, shed: ['fan'] }
    expect(copied(build(kept), night, 'Another')).toMatchObject({ op: 'add', value: { name: 'Another', on: { radio: 0.5 }, shed: ['fan'] } })
  })
})

describe('amps as they are typed', () => {
  it('may be in mA, with a comma or a point, and are nothing else', () => {
    expect(['38 mA', '0,038', '1.2 A', ' 12a ', '38m'].map(typedAmps)).toEqual([0.038, 0.038, 1.2, 12, 0.038])
    expect(['', '-1', '1.2.3', '12 V', 'lots'].map(typedAmps)).toEqual([null, null, null, null, null])
  })
})
