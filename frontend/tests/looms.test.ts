import { describe, expect, it } from 'vitest'

import type { Schemas } from '@/api/client'
import { freshId, worst } from '@/looms'

describe('a fresh id', () => {
  it('is made of the name, in letters and figures alone', () => {
    expect(freshId('Rear loom, left!', [])).toBe('rear-loom-left')
    expect(freshId('  --  ', [])).toBe('entry')
    expect(freshId('x'.repeat(80), [])).toHaveLength(50)
  })

  it('is numbered past all that are taken', () => {
    const taken = [{ id: 'horn' }, { id: 'horn-2' }, { id: 'horn-4' }]
    expect(freshId('Horn', taken)).toBe('horn-3')
  })
})

describe('the worst remark', () => {
  const remarks = (...severities: string[]) => severities.map((severity) => ({ severity })) as Schemas['RemarkView'][]

  it('counts, wherever it stands', () => {
    expect(worst(remarks('note', 'stop', 'look'))).toBe('stop')
    expect(worst(remarks('note', 'look'))).toBe('look')
    expect([worst([]), worst(undefined)]).toEqual(['fine', 'fine'])
  })
})
