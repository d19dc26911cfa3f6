import { describe, expect, it } from 'vitest'

import { answered, mayHelpToAskAgain, Refused } from '@/api/client'

const response = (status: number) => ({ status, ok: status < 400 }) as Response
const refusal = async (request: Promise<never>): Promise<Refused> => {
  try {
    await answered(request)
  } catch (problem) {
    return problem as Refused
  }
  throw new Error('it was answered')
}

describe('what the server answers', () => {
  it('is the data, nothing where there is none', async () => {
    expect(await answered(Promise.resolve({ data: 7, response: response(200) }))).toBe(7)
    expect(await answered(Promise.resolve({ response: response(204) }))).toBeUndefined()
  })

  it('is refused in its own words', async () => {
    const error = { code: 'no-panel', where: 'panel', message: 'There is no panel.', mends: [] }
    const problem = await refusal(Promise.resolve({ error, response: response(422) }) as never)
    expect(problem).toBeInstanceOf(Refused)
    expect([problem.message, problem.status, problem.conflict]).toEqual(['There is no panel.', 422, null])
  })

  it('is in ours where it says nothing or is silent, and that loses nothing', async () => {
    const mute = await refusal(Promise.resolve({ error: '<html>', response: response(502) }) as never)
    expect(mute.message).toBe('The server refused (502).')
    const silent = await refusal(Promise.reject(new TypeError('network')))
    expect([silent.status, silent.problem.code]).toEqual([0, 'unreachable'])
    expect(silent.message).toContain('what you typed is still here')
  })

  it('tells the edits that were made meanwhile', async () => {
    const error = { code: 'stale-base', where: 'build', message: 'It changed.', mends: [], edits: ['Horn moved'] }
    const problem = await refusal(Promise.resolve({ error, response: response(409) }) as never)
    expect(problem.conflict).toMatchObject({ edits: ['Horn moved'] })
  })
})

describe('asking again', () => {
  const problem = (status: number) => new Refused({ code: '', where: '', message: '', mends: [] } as never, status)

  it('is tried once, where the trouble may be gone', () => {
    expect([0, 500, 503].map((status) => mayHelpToAskAgain(0, problem(status)))).toEqual([true, true, true])
    expect([400, 404, 409, 422].map((status) => mayHelpToAskAgain(0, problem(status)))).toEqual([false, false, false, false])
    expect(mayHelpToAskAgain(1, problem(503))).toBe(false)
    expect(mayHelpToAskAgain(0, new Error('ours'))).toBe(false)
  })
})
