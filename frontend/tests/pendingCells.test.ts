import { beforeEach, expect, test, vi } from 'vitest'

import { usePendingCells } from '@/pendingCells'

beforeEach(() => vi.useFakeTimers())

test('what was typed stays in sight until the list has it, and no longer than it takes to come', async () => {
  const { pending, send, stamp } = usePendingCells()
  let saved = () => {}
  let answer: (wrong: string | null) => void = () => {}
  send({ 'horn rating': '5 A' }, (done) => {
    saved = done
    return new Promise((resolve) => (answer = resolve))
  })
  expect(pending['horn rating']).toEqual({ text: '5 A', wrong: null, saved: false })
  const before = stamp.value
  saved()
  expect(pending['horn rating']!.saved).toBe(true)
  expect(stamp.value).toBeGreaterThan(before)
  answer(null)
  await vi.advanceTimersByTimeAsync(3001)
  expect(pending).toEqual({})
})

test('what is refused stays, with why, until it is typed again', async () => {
  const { pending, send, forget } = usePendingCells()
  send({ a: 'loud', b: '12' }, () => Promise.resolve('“loud” is no figure'))
  await vi.advanceTimersByTimeAsync(10_000)
  expect([pending.a!.text, pending.a!.wrong, pending.b!.wrong]).toEqual(['loud', '“loud” is no figure', '“loud” is no figure'])
  send({ a: '5' }, () => Promise.resolve(null))
  expect(pending.a).toEqual({ text: '5', wrong: null, saved: false })
  await vi.advanceTimersByTimeAsync(3001)
  expect(Object.keys(pending)).toEqual(['b'])
  forget((one) => one.wrong !== null)
  expect(pending).toEqual({})
})
