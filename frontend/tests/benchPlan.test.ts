import { describe, expect, it } from 'vitest'

import { apart, levels, lightOf, throwsBeam } from '@/benchPlan'

const many = (count: number, spots: number) =>
  Object.fromEntries(Array.from({ length: count }, (_, n) => [`load-${n}`, { x: 30 * (n % spots), y: 12 * (n % spots) }]))

describe('the plan of the bench', () => {
  it('lays nothing on anything else, however many are at one place', () => {
    for (const [count, spots, gap] of [[20, 1, 17.5], [76, 9, 17.5], [400, 40, 10.5]] as const) {
      const points = Object.values(apart(many(count, spots), gap))
      const apartBy = points.flatMap((one, n) => points.slice(n + 1).map((other) => Math.hypot(one.x - other.x, one.y - other.y)))
      expect(Math.min(...apartBy)).toBeGreaterThan(gap - 1.5)
    }
  })

  it('leaves alone what is alone', () => {
    expect(apart({ horn: { x: 3, y: 4 }, lamp: { x: 60, y: 4 } }, 17)).toEqual({ horn: { x: 3, y: 4 }, lamp: { x: 60, y: 4 } })
  })

  it('keeps names in order, apart and on the sheet', () => {
    const at = levels([50, 52, 51, 300, 299], 17, 10, 300)
    expect(at[0]! < at[2]! && at[2]! < at[1]! && at[1]! < at[4]! && at[4]! < at[3]!).toBe(true)
    const sorted = [...at].sort((a, b) => a - b)
    for (const [n, y] of sorted.entries()) if (n) expect(y - sorted[n - 1]!).toBeGreaterThanOrEqual(17)
    expect(Math.min(...at)).toBeGreaterThanOrEqual(10)
    expect(Math.max(...at)).toBeLessThanOrEqual(300)
  })

  it('paints lamps as they shine', () => {
    expect(lightOf('Tail lamp left')).not.toBe(lightOf('Turn lamp rear left'))
    expect(lightOf('Main beam telltale')).not.toBe(lightOf('Main beam left'))
    expect([throwsBeam('Main beam left'), throwsBeam('Main beam telltale'), throwsBeam('Stop lamp')]).toEqual([true, false, false])
  })
})
