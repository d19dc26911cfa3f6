import { describe, expect, it } from 'vitest'

import { gridColumns, gridGroups, type Stock, type StockRow } from '@/stock'

const row = (part: string, fields: Record<string, string>, also: Partial<StockRow> = {}) =>
  ({ part, group: 'loads', function: 'lighting', yours: [], cells: { name: part, where: '', state: 'new', ...fields }, ...also }) as unknown as StockRow

const lamp = row('Stop lamp 10', { where: 'Tail', rating: '21 W' }, { yours: ['rating'] })
const second = row('Stop lamp 9', { where: 'Tail', rating: '21 W' })
const radio = row('Radio', { where: 'Dash', rating: '2.5 A' }, { function: 'accessory' })
const pedal = row('Brake pedal', { rating: '10 A' }, { function: 'switches', group: 'switches' })
const rows = [radio, lamp, pedal, second]
const titles = (groups: ReturnType<typeof gridGroups>) => groups.map((group) => group.title)
const names = (groups: ReturnType<typeof gridGroups>) => groups.flatMap((group) => group.rows.map((one) => one.id))

describe('the rows of the stock list', () => {
  it('stand in groups in the order of the work, or by place and state', () => {
    expect(titles(gridGroups(rows, 'function', '', null))).toEqual(['Lighting', 'Accessories', 'Switches'])
    expect(titles(gridGroups(rows, 'place', '', null))).toEqual(['Dash', 'Tail', 'Not placed yet'])
    expect(titles(gridGroups(rows, 'state', '', null))).toEqual(['new'])
    expect(titles(gridGroups(rows, 'none', '', null))).toEqual([''])
  })

  it('are sought by every word, in any cell and any order', () => {
    expect(names(gridGroups(rows, 'none', ' TAIL stop ', null))).toEqual(['Stop lamp 10', 'Stop lamp 9'])
    expect(names(gridGroups(rows, 'none', 'tail radio', null))).toEqual([])
  })

  it('are sorted as people count, 9 before 10, either way', () => {
    const by = (up: boolean) => names(gridGroups([lamp, second], 'none', '', { key: 'name', up }))
    expect(by(true)).toEqual(['Stop lamp 9', 'Stop lamp 10'])
    expect(by(false)).toEqual(['Stop lamp 10', 'Stop lamp 9'])
  })

  it('mark what the builder typed and what is typical, of loads alone', () => {
    const [first, other, third] = gridGroups([lamp, second, pedal], 'none', '', null)[0]!.rows
    expect([first!.marks, other!.marks, third!.marks]).toEqual([{ rating: 'yours' }, { rating: 'typical' }, {}])
  })

  it('leave the list as it was', () => {
    const before = structuredClone(rows)
    const [group] = gridGroups(rows, 'none', '', { key: 'name', up: false })
    group!.rows[0]!.cells.name = 'typed over'
    expect(rows).toEqual(before)
  })
})

describe('the columns of the stock list', () => {
  const stock = { kinds: { loads: ['Horn'], feeds: ['Battery'] }, columns: ['name', 'what', 'switch', 'test_v', 'fuse'].map((key) => ({ key })) } as unknown as Stock
  const choices = { switches: [{ name: 'Horn push' }], fuses: [{ name: 'F1 Horn' }] } as never

  it('are the main ones unless all are asked for', () => {
    expect(gridColumns(stock, [], undefined, false).map((column) => column.key)).toEqual(['name', 'what', 'switch', 'fuse'])
    expect(gridColumns(stock, [], undefined, true)).toHaveLength(5)
  })

  it('offer what is there, and the key alone as a switch', () => {
    const of = (key: string) => gridColumns(stock, ['Dash'], choices, true).find((column) => column.key === key)!
    expect(of('what').options).toEqual(['Horn', 'Battery'])
    expect(of('switch').options).toEqual(['key only', 'Horn push'])
    expect(of('fuse').options).toEqual(['F1 Horn'])
    expect([of('test_v').figure, of('name').figure]).toEqual([true, false])
  })
})
