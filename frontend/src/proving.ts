import type { Schemas } from './api/client'
import { fixed } from './format'

export type Step = Schemas['StepView']
export type Reading = Schemas['StepReading']
export type State = Schemas['ProofState']

const OPEN = /^(-?ol|o\.l\.?|open|inf|∞|1\.)$/i
const PREFIX: Record<string, number> = { '': 1, m: 1e-3, k: 1e3, µ: 1e-6, u: 1e-6 }
const UNITS: Record<string, string> = { V: 'v(?:olts?)?', A: 'a(?:mps?)?', Ω: 'ω|ohms?|r' }

/** A reading as it is typed, in V, A or Ω: null is open, undefined is no reading. */
export function readAs(text: string, unit: string): number | null | undefined {
  const tidy = text.trim().toLowerCase().replace('−', '-')
  if (unit === 'Ω' && OPEN.test(tidy)) return null
  const match = new RegExp(`^([-+]?\\d+(?:[.,]\\d+)?)\\s*(?:([mkµu]?)(?:${UNITS[unit]})?)$`).exec(tidy)
  return match ? Number(match[1]!.replace(',', '.')) * PREFIX[match[2] ?? '']! : undefined
}

/** How a reading lies against its band while it is typed; the server judges what is kept. */
export function against(text: string, row: Reading): string {
  if (!text.trim()) return ''
  const value = readAs(text, row.unit)
  if (value === undefined) return 'not a reading'
  if (value === null) return row.high === null ? 'in band' : 'too high'
  const read = row.unit === 'A' ? Math.abs(value) : value
  if (read < row.low) return 'too low'
  return row.high !== null && read > row.high ? 'too high' : 'in band'
}

/** A figure with its unit, to as many digits as a meter shows. */
export function figure(value: number, unit: string): string {
  if (unit === 'A' && value !== 0 && Math.abs(value) < 0.1) return `${fixed(1000 * value, 0)} mA`
  if (unit === 'Ω') return ohms(value)
  return `${fixed(value, Math.abs(value) >= 10 && unit === 'A' ? 1 : 2)} ${unit}`
}

function ohms(value: number): string {
  if (value >= 1e6) return `${fixed(value / 1e6, 1)} MΩ`
  if (value >= 1000) return `${fixed(value / 1000, value >= 1e4 ? 0 : 1)} kΩ`
  return `${fixed(value, value < 10 ? 1 : 0)} Ω`
}

/** A band in words: `11.80 to 12.30 V`, `below 0.3 Ω`, `open, above 10 kΩ`. */
export function bandWords(row: Pick<Reading, 'low' | 'high' | 'unit' | 'expected'>): string {
  if (row.high === null) return row.expected === null ? `open, above ${ohms(row.low)}` : `above ${ohms(row.low)}`
  if (row.low <= 0) return `up to ${figure(row.high, row.unit)}`
  const [low, high] = [figure(row.low, row.unit), figure(row.high, row.unit)]
  const same = low.split(' ')[1] === high.split(' ')[1]
  return same ? `${low.split(' ')[0]} to ${high}` : `${low} to ${high}`
}

export type Mark = 'passed' | 'failed' | 'again' | 'waits' | 'open'

/** Where a step stands: by its newest proof, and by what it waits for. */
export function markOf(step: Step, state: State | undefined): Mark {
  if (step.waits_for.length) return 'waits'
  if (!state) return 'open'
  if (!state.passed) return 'failed'
  return state.again ? 'again' : 'passed'
}

export const MARKS: Record<Mark, { sign: string; word: string }> = {
  passed: { sign: '●', word: 'passed' },
  failed: { sign: '■', word: 'not right' },
  again: { sign: '▲', word: 'prove again' },
  waits: { sign: '‖', word: 'waits' },
  open: { sign: '○', word: 'to do' },
}

/** Hours and minutes of so many minutes. */
export function hours(minutes: number): string {
  const whole = Math.round(minutes)
  return whole < 60 ? `${whole} min` : `${Math.floor(whole / 60)} h ${whole % 60} min`
}
