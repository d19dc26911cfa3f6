import { describe, expect, it } from 'vitest'

import { amps, fixed, lasting, typedNumber, volts } from '@/format'

describe('figures', () => {
  it('are dashes where there are none, and never minus nothing', () => {
    expect([fixed(null, 1), fixed(undefined, 1), fixed(-0.001, 2), fixed(-0.01, 2)]).toEqual(['–', '–', '0.00', '-0.01'])
  })

  it('carry their unit, and as many digits as a meter', () => {
    expect([volts(12.345), amps(9.994), amps(10.04), amps(-12.34)]).toEqual(['12.35 V', '9.99 A', '10.0 A', '-12.3 A'])
  })

  it('take a comma or a point as they are typed, and nothing else', () => {
    expect(['12,21', ' 1.85 ', '-3', '1.2.3', 'abc', ''].map(typedNumber)).toEqual([12.21, 1.85, -3, null, null, null])
  })
})

describe('spans of time', () => {
  it('are told in the unit that suits them', () => {
    const spans = [0.0134, 4.04, 45, 600, 20_000, 1e9]
    expect(spans.map(lasting)).toEqual(['13 ms', '4.0 s', '45 s', '10 min', '5.6 h', 'for ever'])
  })
})
