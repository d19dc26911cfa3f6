import { describe, expect, it } from 'vitest'

import type { BuildView } from '@/api/client'
import { frameOf, LETTER, labelsOf, pointOf, roomFor } from '@/plan'

const car = (...places: [number, number][]) =>
  ({ body: { length_m: 4, width_m: 1.6 }, places: places.map(([x_m, y_m]) => ({ x_m, y_m })) }) as unknown as BuildView

describe('the frame of the plan', () => {
  it('holds the whole car, and every place beside, before and behind it', () => {
    for (const build of [car([0, 0]), car([-0.5, 1.4], [4.6, -1.2])]) {
      const frame = frameOf(build, 30)
      for (const place of build.places) {
        const { x, y } = pointOf(place)
        expect(x).toBeGreaterThan(frame.x)
        expect(x).toBeLessThan(frame.x + frame.width)
        expect(y).toBeGreaterThan(frame.y)
        expect(y).toBeLessThan(frame.y + frame.height)
      }
      expect(frame.width).toBeGreaterThan(160)
      expect(frame.height).toBeGreaterThan(400)
    }
  })

  it('makes room for the longest name beside the car, and some where there is none', () => {
    const label = { door: { x: 90, y: 0, anchor: 'start' as const } }
    expect(roomFor(car([2, 0.9]), label, { door: 'A' })).toBe(30)
    expect(roomFor(car([2, 0.9]), label, { door: 'x'.repeat(20) })).toBeCloseTo(90 + 20 * LETTER - 80 + 8)
  })
})

describe('names on a crowded plan', () => {
  it('cover neither each other nor a point, as far as there is room', () => {
    const points = Object.fromEntries(Array.from({ length: 8 }, (_, n) => [`p${n}`, { x: n % 2 ? 60 : -60, y: 40 * n }]))
    const names = Object.fromEntries(Object.keys(points).map((id) => [id, `Place ${id}`]))
    const labels = Object.entries(labelsOf(points, names, 80)).map(([id, label]) => {
      const wide = names[id]!.length * LETTER
      const left = label.x - (label.anchor === 'end' ? wide : label.anchor === 'middle' ? wide / 2 : 0)
      return { left, right: left + wide, y: label.y }
    })
    labels.forEach((one, at) => {
      for (const other of labels.slice(at + 1)) {
        expect(Math.abs(one.y - other.y) > 10 || one.right < other.left || other.right < one.left).toBe(true)
      }
    })
  })

  it('stand on the outer side', () => {
    const { left, right } = labelsOf({ left: { x: -60, y: 0 }, right: { x: 60, y: 0 } }, { left: 'L', right: 'R' }, 80)
    expect([left!.anchor, right!.anchor]).toEqual(['end', 'start'])
  })
})
