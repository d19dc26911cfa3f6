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
