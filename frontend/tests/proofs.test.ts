import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, test, vi } from 'vitest'

import { useProofs } from '@/stores/proofs'

const server = vi.hoisted(() => ({
  kept: [] as { step: string; mark: string }[],
  /** What the server says to the next records: a problem, or nothing where it keeps them. */
  says: [] as (null | { code: string; message: string; status: number })[],
}))

vi.mock('@tanstack/vue-query', () => ({ useQueryClient: () => ({ invalidateQueries: () => Promise.resolve() }) }))
vi.mock('@/api/client', () => {
  class Refused extends Error {
    constructor(readonly problem: { code: string; message: string }, readonly status: number) {
      super(problem.message)
    }
  }
  return {
    Refused,
    client: { POST: (_path: string, asked: { body: { step: string; mark: string } }) => asked.body },
    answered: (body: { step: string; mark: string }) => {
      const problem = server.says.shift()
      if (problem) return Promise.reject(new Refused(problem, problem.status))
      server.kept.push(body)
      return Promise.resolve()
    },
  }
})

const AWAY = { code: 'unreachable', message: 'away', status: 0 }

/** What a browser keeps, shared by its tabs. */
class Kept {
  readonly rows = new Map<string, string>()
  get length(): number {
    return this.rows.size
  }
  key = (at: number) => [...this.rows.keys()][at] ?? null
  getItem = (name: string) => this.rows.get(name) ?? null
  setItem = (name: string, value: string) => void this.rows.set(name, value)
  removeItem = (name: string) => void this.rows.delete(name)
}

let online: () => void

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('localStorage', new Kept())
  vi.stubGlobal('window', { addEventListener: (_: string, told: () => void) => (online = told), setTimeout })
  server.kept.length = server.says.length = 0
})

/** A tab that is opened, or one that is loaded again. */
function tab() {
  setActivePinia(createPinia())
  return useProofs()
}

const proof = (step: string, readings: Record<string, string> = {}) => ({ step, readings, looks: {}, note: 'hums' }) as never
const steps = () => server.kept.map((row) => row.step)

describe('a record', () => {
  test('is sent, and then kept here no longer', async () => {
    const proofs = tab()
    await proofs.record(1, proof('first'))
    expect([steps(), proofs.waiting, localStorage.length]).toEqual([['first'], 0, 0])
  })

  test('waits while the server is away, and goes by itself when it is back, oldest first', async () => {
    const proofs = tab()
    server.says.push(AWAY, AWAY)
    await proofs.record(1, proof('first'))
    vi.setSystemTime(Date.now() + 1000)
    await proofs.record(1, proof('second'))
    expect([steps(), proofs.waitingOf(1).length, proofs.waitingOf(2).length]).toEqual([[], 2, 0])
    await vi.advanceTimersByTimeAsync(5001)
    expect([steps(), proofs.waiting]).toEqual([['first', 'second'], 0])
  })

  test('is still there when the tab is closed and opened again', async () => {
    server.says.push(AWAY, AWAY)
    const before = tab()
    await before.record(1, proof('first'))
    vi.setSystemTime(Date.now() + 1000)
    await before.record(1, proof('second'))
    vi.clearAllTimers()
    server.says.push({ code: 'scan-again', message: 'scan', status: 403 })
    const after = tab()
    await vi.advanceTimersByTimeAsync(1)
    expect([after.waiting, steps()]).toEqual([2, []])
    online()
    await vi.advanceTimersByTimeAsync(1)
    expect([after.waiting, steps()]).toEqual([0, ['first', 'second']])
  })

  test('of one tab is not lost by what another records', async () => {
    server.says.push(AWAY, AWAY)
    const [one, other] = [tab(), tab()]
    await one.record(1, proof('in one'))
    vi.setSystemTime(Date.now() + 1000)
    await other.record(1, proof('in the other'))
    vi.clearAllTimers()
    tab()
    await vi.advanceTimersByTimeAsync(1)
    expect(steps()).toEqual(['in one', 'in the other'])
  })

  test('that is refused goes back to where it was typed, behind what was typed since', async () => {
    const proofs = tab()
    server.says.push({ code: 'unknown-step', message: 'There is no such step.', status: 422 })
    proofs.draft(1, 'gone').readings.ohms = '0.2'
    await proofs.record(1, proof('gone', { volts: '12.1', ohms: '0.4' }))
    expect(proofs.draft(1, 'gone')).toEqual({ readings: { volts: '12.1', ohms: '0.2' }, looks: {}, note: 'hums' })
    expect(proofs.refused.gone).toContain('There is no such step. What you typed is still here.')
    expect([proofs.waiting, steps()]).toEqual([0, []])
    expect(tab().draft(1, 'gone').readings.volts).toBe('12.1')
  })
})

test('what is typed at a step outlives the tab, until it is recorded', () => {
  const before = tab()
  before.draft(3, 'step').note = 'hot'
  before.keep(3, 'step')
  const after = tab()
  expect([after.draft(3, 'step').note, after.draft(4, 'step').note]).toEqual(['hot', ''])
  after.clear(3, 'step')
  expect(tab().draft(3, 'step')).toEqual({ readings: {}, looks: {}, note: '' })
})

test('a draft that is spoiled is begun anew', () => {
  localStorage.setItem('oilstone-step-1-step', '{"readings": ')
  localStorage.setItem('oilstone-proof-to-send-x', 'null')
  expect(tab().draft(1, 'step').readings).toEqual({})
  expect(tab().waiting).toBe(0)
})
