import type { FallLineView } from './api/client'

/** The drawing's measures, in its own units. */
export const PAPER = { width: 680, height: 300, left: 52, right: 16, top: 16, bottom: 26, band: 30 }

/** Least height of the feed and return parts in volts, so that a good circuit looks flat. */
const LEAST_SPAN_V = 0.25

/** Where distance and voltage lie on paper; the load's own voltage is cut out of the scale. */
export interface FallScale {
  x: (metres: number) => number
  y: (volts: number, side: string) => number
  metres: number
  bandTop: number
  ticks: { volts: number; y: number }[]
}

/** One scale for all lines on the picture, with the same volts to the centimetre above and below. */
export function fallScale(lines: FallLineView[]): FallScale {
  const metres = Math.max(...lines.map((line) => line.steps.at(-1)?.points.at(-1)?.distance_m ?? 0), 0.1)
  const top = Math.max(...lines.map((line) => line.battery_v))
  const feedEnd = Math.min(...lines.map((line) => line.battery_v - line.feed_loss_v))
  const feedSpan = Math.max(top - feedEnd, LEAST_SPAN_V) * 1.12
  const returnSpan = Math.max(...lines.map((line) => line.return_loss_v), LEAST_SPAN_V) * 1.12
  const room = PAPER.height - PAPER.top - PAPER.bottom - PAPER.band
  const perVolt = room / (feedSpan + returnSpan)
  const floor = PAPER.height - PAPER.bottom
  const x = (distance: number) =>
    PAPER.left + (distance / metres) * (PAPER.width - PAPER.left - PAPER.right)
  const feedY = (value: number) => PAPER.top + (top - value) * perVolt
  const returnY = (value: number) => floor - value * perVolt
  const step = tickStep(feedSpan + returnSpan)
  return {
    x,
    y: (value, side) => (side === 'feed' ? feedY(value) : returnY(value)),
    metres,
    bandTop: PAPER.top + feedSpan * perVolt,
    ticks: [
      ...ticksBetween(top - feedSpan, top, step).map((value) => ({ volts: value, y: feedY(value) })),
      ...ticksBetween(0, returnSpan, step).map((value) => ({ volts: value, y: returnY(value) })),
    ],
  }
}

function tickStep(span: number): number {
  return [0.05, 0.1, 0.2, 0.5, 1, 2, 5].find((step) => span / step <= 9) ?? 10
}

function ticksBetween(low: number, high: number, step: number): number[] {
  const first = Math.ceil(low / step - 1e-9)
  const count = Math.floor(high / step + 1e-9) - first + 1
  return Array.from({ length: Math.max(count, 0) }, (_, index) => (first + index) * step)
}

/** What stands beside the line: at which point, and whether it must stand somewhere. */
export interface Wanted {
  text: string
  x: number
  y: number
  must: boolean
}

/** A name where it is written: `end` has its last letter at x; one that is `far` from its point is led to it. */
export interface Place {
  at: { x: number; y: number; anchor: 'start' | 'end' }
  far: boolean
}

interface Box {
  left: number
  right: number
  top: number
  low: number
}

const LETTER = 6.3
const LINE = 13
const GAP = 6
/** How many lines of text a name may stand away from its point: one that must stand, farther. */
const NEAR = [0, 1]
const FAR = [2, 3, 4, 5, 6, 7, 8]

/** Names beside their points, on no other name and not over the line: those that must first, the rest
 * where there is room. */
export function placedNames<Name extends Wanted>(wanted: Name[], line: { x: number; y: number }[]): (Name & Place)[] {
  const taken: Box[] = line.map((point) => ({ left: point.x - 1, right: point.x + 1, top: point.y - 2, low: point.y + 2 }))
  const inOrder = [...wanted].sort((one, other) => Number(other.must) - Number(one.must))
  const placed: (Name & Place)[] = []
  for (const name of inOrder) {
    const free = spots(name).find((spot) => inside(spot.box) && !taken.some((other) => meets(other, spot.box)))
    if (!free) continue
    taken.push(free.box)
    placed.push({ ...name, at: free.at, far: free.far })
  }
  return placed
}

/** Where a name may stand, the nearest first: right or left of its point, above or below it. */
function spots(name: Wanted): (Place & { box: Box })[] {
  const wide = name.text.length * LETTER
  return [...NEAR, ...(name.must ? FAR : [])].flatMap((lines) =>
    [-1, 1].flatMap((down) =>
      (['start', 'end'] as const).map((anchor) => {
        const x = name.x + (anchor === 'start' ? GAP : -GAP)
        const y = name.y + (down < 0 ? -GAP : GAP + LINE - 3) + down * lines * LINE
        const left = anchor === 'start' ? x : x - wide
        return { at: { x, y, anchor }, far: lines > 0, box: { left, right: left + wide, top: y - LINE + 2, low: y + 3 } }
      }),
    ),
  )
}

function inside(box: Box): boolean {
  return box.left >= PAPER.left && box.right <= PAPER.width && box.top >= 0 && box.low <= PAPER.height - PAPER.bottom + 6
}

function meets(one: Box, other: Box): boolean {
  return one.left < other.right && other.left < one.right && one.top < other.low && other.top < one.low
}

/** A way as points close to one another, so that names can keep clear of it. */
export function sampled(points: { x: number; y: number }[]): { x: number; y: number }[] {
  return points.slice(1).flatMap((end, n) => {
    const start = points[n]!
    const steps = Math.max(Math.ceil(Math.hypot(end.x - start.x, end.y - start.y) / 4), 1)
    return Array.from({ length: steps + 1 }, (_, step) => ({
      x: start.x + ((end.x - start.x) * step) / steps,
      y: start.y + ((end.y - start.y) * step) / steps,
    }))
  })
}
