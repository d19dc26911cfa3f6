import { describe, expect, it } from 'vitest'

import type { FallLineView } from '@/api/client'
import { fallScale, PAPER } from '@/fallScale'
import { labelsOf } from '@/plan'

const line = (feed_loss_v: number, return_loss_v: number) =>
  ({ battery_v: 12, load_v: 12 - feed_loss_v - return_loss_v, feed_loss_v, return_loss_v, steps: [{ points: [{ distance_m: 4, volts: 0 }] }] }) as unknown as FallLineView

describe('the scale of fall lines', () => {
  it('has the same volts to the centimetre above and below the load', () => {
    const { y } = fallScale([line(0.6, 0.3)])
    expect(y(12, 'feed') - y(11.9, 'feed')).toBeCloseTo(y(0.1, 'return') - y(0, 'return'))
  })

  it('leaves a good circuit flat and everything on the paper', () => {
    const good = fallScale([line(0.01, 0.01)])
    expect(good.y(11.99, 'feed') - good.y(12, 'feed')).toBeLessThan(8)
    const bad = fallScale([line(0.01, 0.01), line(3, 2)])
    expect(bad.y(2, 'return')).toBeGreaterThan(bad.bandTop)
    expect(bad.y(9, 'feed')).toBeLessThan(bad.bandTop)
    expect(bad.x(4)).toBe(PAPER.width - PAPER.right)
    for (const { y } of bad.ticks) {
      expect(y).toBeGreaterThanOrEqual(PAPER.top)
      expect(y).toBeLessThanOrEqual(PAPER.height - PAPER.bottom)
    }
  })
})

describe('names on the plan', () => {
  it('cover neither each other nor a place', () => {
    const points = { left: { x: -60, y: 40 }, right: { x: 60, y: 40 }, near: { x: 52, y: 44 }, middle: { x: 0, y: 45 } }
    const names = { left: 'Front left lamp', right: 'Front right lamp', near: 'Nose', middle: 'Radiator' }
    const labels = labelsOf(points, names, 85)
    const span = (id: keyof typeof points) => {
      const wide = names[id].length * 5.2
      const { x, y, anchor } = labels[id]!
      const left = anchor === 'end' ? x - wide : anchor === 'middle' ? x - wide / 2 : x
      return { left, right: left + wide, y }
    }
    const ids = Object.keys(points) as (keyof typeof points)[]
    for (const one of ids)
      for (const other of ids.filter((id) => id !== one)) {
        const [a, b] = [span(one), span(other)]
        expect(Math.abs(a.y - b.y) > 10 || a.right < b.left || a.left > b.right, `${one} over ${other}`).toBe(true)
      }
  })
})
