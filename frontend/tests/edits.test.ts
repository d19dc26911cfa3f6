import { beforeEach, describe, expect, test, vi } from 'vitest'
import { ref } from 'vue'

import { conflict, refusal, saving, useEdits, waysOut } from '@/api/edits'

type Asked = { path: string; body: { base: number; label?: string } }

const server = vi.hoisted(() => ({
  revision: 1,
  asked: [] as Asked[],
  says: [] as (null | { status: number; code: string; message: string; since?: object[]; mends?: object[] })[],
}))

vi.mock('@tanstack/vue-query', () => {
  const known = { revision: 1 }
  return {
    useQueryClient: () => ({
      getQueryData: () => known,
      setQueryData: () => undefined,
      invalidateQueries: () => {
        known.revision = server.revision
        return Promise.resolve()
      },
    }),
  }
})
vi.mock('@/api/client', () => {
  class Refused extends Error {
    constructor(readonly problem: { code: string; message: string }, readonly status: number) {
      super(problem.message)
    }
    get conflict() {
      return this.problem.code === 'stale-base' ? this.problem : null
    }
  }
  return {
    Refused,
    client: { POST: (path: string, asked: { body: Asked['body'] }) => ({ path, body: asked.body }) },
    answered: async (asked: Asked) => {
      server.asked.push(asked)
      await Promise.resolve()
      const problem = server.says.shift()
      if (problem) throw new Refused(problem, problem.status)
      if (asked.body.base !== server.revision) throw new Refused({ code: 'stale-base', message: 'It changed.' }, 409)
      if (!/changes|preview/.test(asked.path)) server.revision += 1
      return { revision: server.revision, results: {}, changes: [] }
    },
  }
})

const edits = useEdits(ref(7))

beforeEach(async () => {
  server.asked.length = server.says.length = 0
  await edits.edit('to begin', [])
  server.asked.length = 0
})

describe('an edit', () => {
  test('waits for the one before it: a quick hand is never in conflict with itself', async () => {
    const saved = await Promise.all([edits.edit('one', []), edits.edit('two', []), edits.undo(), edits.redo()])
    expect(saved).toEqual([true, true, true, true])
    expect(server.asked.map(({ body }) => body.base - server.revision)).toEqual([-4, -3, -2, -1])
    expect(server.asked.map(({ body }) => body.label)).toEqual(['one', 'two', undefined, undefined])
    expect([saving.value, refusal.value, conflict.value]).toEqual([false, null, null])
  })

  test('that is refused says why and which ways are out, and lets the next one through', async () => {
    server.says.push({ status: 422, code: 'bad', message: 'No such place.', mends: [{ label: 'Add it' }] })
    const done = vi.fn()
    const [first, second] = [edits.edit('one', [], done), edits.edit('two', [])]
    expect(await first).toBe(false)
    expect([refusal.value, waysOut.value]).toEqual(['No such place.', [{ label: 'Add it' }]])
    expect(done).not.toHaveBeenCalled()
    expect(await second).toBe(true)
    expect([refusal.value, waysOut.value]).toEqual([null, []])
  })

  test('on a build that somebody changed meanwhile is kept, and can be tried again on the newer one', async () => {
    server.revision += 3 // in another tab
    const done = vi.fn()
    server.says.push({ status: 409, code: 'stale-base', message: 'It changed.', since: [{ label: 'Horn moved' }] })
    expect(await edits.edit('one', [], done)).toBe(false)
    expect(conflict.value).toMatchObject({ label: 'one', since: [{ label: 'Horn moved' }] })
    expect(refusal.value).toBeNull()
    expect(await conflict.value!.again()).toBe(true)
    expect(done).toHaveBeenCalledOnce()
    expect(conflict.value).toBeNull()
  })

  test('that fails by a fault of ours does not stop those after it', async () => {
    const boom = edits.edit('one', [], () => {
      throw new TypeError('ours')
    })
    await expect(boom).rejects.toThrow('ours')
    expect(saving.value).toBe(false)
    expect(await edits.edit('two', [])).toBe(true)
  })
})

describe('a preview', () => {
  test('tells what changes before it tells the sizes, and saves nothing', async () => {
    const told = vi.fn(() => expect(server.asked).toHaveLength(1))
    await edits.preview('what if', [], told)
    expect(told).toHaveBeenCalledOnce()
    expect(server.asked.map(({ path }) => path.split('/').at(-1))).toEqual(['changes', 'preview'])
  })
})
