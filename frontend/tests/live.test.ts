import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, test, vi } from 'vitest'

import { useLive } from '@/stores/live'

const late = vi.hoisted(() => ({ answer: undefined as unknown as (session: unknown) => void }))

vi.mock('@/api/client', () => ({
  Refused: Error,
  client: { GET: () => undefined },
  answered: () => new Promise((answer) => (late.answer = answer)),
}))

class Stream {
  static open: Stream
  onmessage?: (event: { data: string }) => void
  constructor() {
    Stream.open = this
  }
  close(): void {}
  tell(frame: object): void {
    vi.advanceTimersByTime(400)
    this.onmessage!({ data: JSON.stringify({ revision: 1, version: 1, rate: 1, told: 0, frame }) })
  }
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', Stream)
  setActivePinia(createPinia())
})

test('an answer that comes late takes nothing from what the stream has told since', async () => {
  const live = useLive()
  live.follow(1, 0.04)
  Stream.open.tell({ t_s: 1, on: [], load_v: [0] })
  Stream.open.tell({ t_s: 2, on: ['lamp'], load_v: [12] })
  late.answer({ revision: 1, version: 1, rate: 1, told: 0, tape: [], loads: ['lamp'], wires: [], frame: { t_s: 1, on: [], load_v: [0] } })
  await vi.waitFor(() => expect(live.session).toBeDefined())
  Stream.open.tell({ t_s: 3 })
  expect(live.on).toEqual(new Set(['lamp']))
  expect(live.calm!.load_v).toEqual([12])
})
