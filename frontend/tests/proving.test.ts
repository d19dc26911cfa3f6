import { describe, expect, it } from 'vitest'

import { against, bandWords, figure, hours, lineOf, markOf, readAs, type Reading, type Step } from '@/proving'

const row = (fields: Partial<Reading>) => ({ unit: 'V', low: 11.8, high: 12.3, expected: 12, ...fields }) as Reading

describe('readings as they are typed', () => {
  it('take a comma, a prefix and a unit, and nothing else', () => {
    expect(['12,3', '850 mV', '12.3V', '−12', '3 A', 'x'].map((text) => readAs(text, 'V'))).toEqual([12.3, 0.85, 12.3, -12, undefined, undefined])
    expect(['4.7k', '4.7 kΩ', 'OL', 'open', '0.3 ohms'].map((text) => readAs(text, 'Ω'))).toEqual([4700, 4700, null, null, 0.3])
  })

  it('lie in their band or beside it', () => {
    expect(['11.8', '11.7', '12.31', '', 'loud'].map((text) => against(text, row({})))).toEqual(['in band', 'too low', 'too high', '', 'not a reading'])
    const open = row({ unit: 'Ω', low: 10_000, high: null, expected: null })
    expect(['OL', '20k', '300'].map((text) => against(text, open))).toEqual(['in band', 'in band', 'too low'])
    expect(against('OL', row({ unit: 'Ω', low: 0, high: 0.3 }))).toBe('too high')
    expect(against('-4.9', row({ unit: 'A', low: 4.5, high: 5.2 }))).toBe('in band')
  })
})

describe('bands and figures', () => {
  it('are said in words, with units and no more digits than a meter has', () => {
    expect(bandWords(row({}))).toBe('11.80 to 12.30 V')
    expect(bandWords(row({ low: 0, high: 0.32 }))).toBe('up to 0.32 V')
    expect(bandWords(row({ unit: 'Ω', low: 10_000, high: null, expected: null }))).toBe('open, above 10 kΩ')
    expect(bandWords(row({ unit: 'A', low: 0.02, high: 0.5 }))).toBe('20 mA to 0.50 A')
    expect([figure(0.024, 'A'), figure(14.26, 'A'), figure(0.04, 'Ω'), figure(4700, 'Ω'), figure(85.2, 'Ω')]).toEqual(['24 mA', '14.3 A', '0.0 Ω', '4.7 kΩ', '85 Ω'])
    expect([hours(42), hours(192)]).toEqual(['42 min', '3 h 12 min'])
  })
})

describe('where a step stands', () => {
  const step = (waits_for: string[]) => ({ waits_for }) as Step
  const state = (passed: boolean, again = '') => ({ passed, again }) as Parameters<typeof markOf>[1]

  it('is by its newest proof, and waits before all else', () => {
    expect([markOf(step(['Radio']), state(true)), markOf(step([]), undefined), markOf(step([]), state(true))]).toEqual(['waits', 'open', 'passed'])
    expect([markOf(step([]), state(true, 'W3 changed')), markOf(step([]), state(false, 'W3 changed'))]).toEqual(['again', 'failed'])
  })
})

describe('a line of a sheet that is typed back', () => {
  const step = {
    readings: [row({ id: 'v', name: 'Volts' }), row({ id: 'gone', waits: true }), row({ id: 'r', name: 'Ohms', unit: 'Ω' })],
    looks: [{ id: 'left' }, { id: 'absent', waits: true }, { id: 'right' }],
  } as Step
  const read = (text: string) => lineOf(text, [step, step], ['dim', 'blows at once'])

  it('is a number, readings in order, a verdict, what was seen, and a note', () => {
    expect(read('2 12,3 OL ok')).toMatchObject({ step, readings: { v: '12,3', r: 'OL' }, passed: true, problem: '' })
    expect(read('1 - 0.2')).toMatchObject({ readings: { r: '0.2' }, problem: '' })
    expect(read('1 - 0.2').passed).toBeUndefined()
    expect(read('1 no dim, hums, smells')).toMatchObject({ passed: false, looks: { left: 'dim' }, note: 'hums, smells' })
    expect(read('1 no 2 blows at once').looks).toEqual({ right: 'blows at once' })
  })

  it('says what it does not understand, and where', () => {
    expect(read('3 12')).toMatchObject({ step: undefined, problem: 'There is no step 3: they go from 1 to 2.' })
    expect(read('1 1 2 3').problem).toBe('Step 1 has 2 readings, and 3 are typed.')
    expect(read('1 loud').problem).toBe('“loud” at Volts is no reading.')
    expect(read('1 no 3 dim').problem).toBe('Step 1 has nothing to look at under 3.')
    expect(read('1 no odd').problem).toContain('“odd” is no word')
  })
})
