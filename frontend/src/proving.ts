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

/** What was read and seen at a step, as it is sent. */
export function proofOf(
  step: Step,
  said: { readings: Record<string, string>; looks: Record<string, string>; note: string },
  passed: boolean,
) {
  const bands = step.readings.map((row) => [
    row.id,
    { name: row.name, unit: row.unit, expected: row.expected, low: row.low, high: row.high },
  ])
  const looks = step.looks.filter((look) => !look.waits).map((look) => [look.id, said.looks[look.id] ?? ''])
  return {
    step: step.id,
    token: step.token,
    title: step.title,
    passed,
    readings: { ...said.readings },
    looks: Object.fromEntries(looks) as Record<string, string>,
    bands: Object.fromEntries(bands),
    note: said.note,
  }
}

export interface Line {
  step?: Step
  readings: Record<string, string>
  looks: Record<string, string>
  note: string
  passed?: boolean
  problem: string
}

/** One line of a sheet that is typed back: `72 12.3 - OL ok`, `73 no dim, hums`. */
export function lineOf(text: string, steps: Step[], amiss: string[]): Line {
  const line: Line = { readings: {}, looks: {}, note: '', problem: '' }
  const [said, ...notes] = text.split(/,\s+/)
  line.note = notes.join(', ')
  const [number, ...words] = (said ?? '').trim().split(/\s+/)
  if (!number) return line
  line.step = /^\d+$/.test(number) ? steps[Number(number) - 1] : undefined
  if (!line.step) return { ...line, problem: `There is no step ${number}: they go from 1 to ${steps.length}.` }
  const verdict = words.findIndex((word) => /^(ok|passed|no)$/i.test(word))
  const figures = verdict < 0 ? words : words.slice(0, verdict)
  const asked = line.step.readings.filter((row) => !row.waits)
  if (figures.length > asked.length)
    return { ...line, problem: `Step ${number} has ${asked.length} readings, and ${figures.length} are typed.` }
  for (const [at, figure] of figures.entries()) {
    const row = asked[at]!
    if (figure === '-') continue
    if (readAs(figure, row.unit) === undefined) return { ...line, problem: `“${figure}” at ${row.name} is no reading.` }
    line.readings[row.id] = figure
  }
  if (verdict < 0) return line
  line.passed = !/^no$/i.test(words[verdict]!)
  const seen = words.slice(verdict + 1).join(' ')
  if (!seen) return line
  const [, which, word] = /^(\d+)?\s*(.*)$/.exec(seen)!
  const look = line.step.looks.filter((row) => !row.waits)[Number(which ?? 1) - 1]
  if (!look) return { ...line, problem: `Step ${number} has nothing to look at under ${which ?? 1}.` }
  if (!amiss.includes(word!)) return { ...line, problem: `“${word}” is no word for what is amiss. Say ${amiss.slice(0, 3).join(', ')} …` }
  line.looks[look.id] = word!
  return line
}
