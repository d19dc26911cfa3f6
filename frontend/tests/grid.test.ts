import { describe, expect, it } from 'vitest'

import { blockOf, fromClipboard, range, toClipboard, within } from '@/grid'

describe('cells to and from a spreadsheet', () => {
  const odd = [
    ['Horn', 'a "loud" one', ''],
    ['two\nlines', 'a\ttab', 'plain'],
  ]

  it('come back as they went', () => {
    expect(fromClipboard(toClipboard(odd))).toEqual(odd)
  })

  it('take line ends of every system, and an empty cell at the end', () => {
    expect(fromClipboard('a\tb\r\nc\t')).toEqual([
      ['a', 'b'],
      ['c', ''],
    ])
  })

  it('are text when a quote is never closed', () => {
    expect(fromClipboard('5" hose\tred')).toEqual([['5" hose', 'red']])
  })
})

describe('a block of cells', () => {
  it('is the same from either corner and holds its edges', () => {
    const block = blockOf({ row: 4, column: 1 }, { row: 2, column: 3 })
    expect(block).toEqual(blockOf({ row: 2, column: 3 }, { row: 4, column: 1 }))
    expect([within(block, 2, 1), within(block, 4, 3), within(block, 5, 3)]).toEqual([true, true, false])
    expect(range(block.left, block.right)).toEqual([1, 2, 3])
    expect(range(3, 1)).toEqual([])
  })
})
