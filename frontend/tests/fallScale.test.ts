import { describe, expect, it } from 'vitest'

import { PAPER, placedNames, sampled } from '@/fallScale'

describe('names beside the fall line', () => {
  const line = sampled([
    { x: 60, y: 20 },
    { x: 300, y: 60 },
    { x: 640, y: 130 },
  ])
  const box = (name: ReturnType<typeof placedNames>[number]) => {
    const wide = name.text.length * 6.3
    const left = name.at.anchor === 'start' ? name.at.x : name.at.x - wide
    return { left, right: left + wide, top: name.at.y - 11, low: name.at.y + 3 }
  }

  it('touch no other name, not the line, and stay on the paper', () => {
    const wanted = Array.from({ length: 14 }, (_, n) => ({ text: `Fuse ${n} of the panel`, x: 80 + n * 9, y: 22 + n, must: n % 5 === 0 }))
    const placed = placedNames(wanted, line)
    expect(placed.filter((name) => name.must)).toHaveLength(3)
    const boxes = placed.map(box)
    boxes.forEach((one, n) => {
      expect(one.left).toBeGreaterThanOrEqual(PAPER.left)
      expect(one.right).toBeLessThanOrEqual(PAPER.width)
      for (const other of boxes.slice(0, n)) {
        expect(one.left < other.right && other.left < one.right && one.top < other.low && other.top < one.low).toBe(false)
      }
      expect(line.some((p) => p.x > one.left && p.x < one.right && p.y > one.top && p.y < one.low)).toBe(false)
    })
  })

  it('those that must stand stand, though others want their room', () => {
    const wanted = Array.from({ length: 40 }, (_, n) => ({ text: 'Ground at the bulkhead', x: 200, y: 40, must: n === 39 }))
    expect(placedNames(wanted, line).some((name) => name.must)).toBe(true)
  })
})
