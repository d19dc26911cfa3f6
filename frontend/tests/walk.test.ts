import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, test, vi } from 'vitest'
import { nextTick } from 'vue'

import { stages } from '@/stages'
import { useWalk } from '@/stores/walk'

const kept = new Map<string, string>()

beforeEach(() => {
  kept.clear()
  vi.stubGlobal('localStorage', { getItem: (name: string) => kept.get(name) ?? null, setItem: (name: string, value: string) => kept.set(name, value) })
})

function opened() {
  setActivePinia(createPinia())
  return useWalk()
}

test('a walk goes on where it was when the page is loaded again', async () => {
  const walk = opened()
  expect(walk.stop).toBeUndefined()
  expect(walk.goTo(5, 2)).toMatchObject({ params: { id: 5 } })
  const title = walk.stop!.title
  await nextTick()
  expect(opened().stop!.title).toBe(title)
})

test('it is over past its last stop, or when it is left', async () => {
  const walk = opened()
  walk.goTo(5, walk.count - 1)
  expect(walk.goTo(5, walk.count)).toBeNull()
  expect(walk.stop).toBeUndefined()
  walk.goTo(5, 0)
  walk.leave()
  await nextTick()
  expect(opened().place).toBeNull()
})

test('it passes every stage', () => {
  const walk = opened()
  const shown = Array.from({ length: walk.count }, (_, stop) => {
    walk.goTo(1, stop)
    return walk.stop!.title
  })
  expect(shown).toEqual(expect.arrayContaining(stages.map((stage) => stage.title)))
})

test('what is spoiled in the browser is no walk, and the program opens', () => {
  kept.set('oilstone-walk', '{"build": ')
  expect(opened().place).toBeNull()
})
