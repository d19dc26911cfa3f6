import type { BuildView } from './api/client'

/** The plan's scale: 100 units are a metre; x runs to the right from mid-car, y from the nose back. */
export const UNITS = 100
const MARGIN = 34

export interface Point {
  x: number
  y: number
}

export function pointOf(place: { x_m: number; y_m: number }): Point {
  return { x: place.y_m * UNITS, y: place.x_m * UNITS }
}

/** The part of the plane that shows the whole car and every place, with room beside it. */
export function frameOf(
  build: BuildView,
  beside: number,
): { x: number; y: number; width: number; height: number } {
  const xs = build.places.map((place) => Math.abs(place.y_m) * UNITS)
  const ys = build.places.map((place) => place.x_m * UNITS)
  const half = Math.max(build.body.width_m * (UNITS / 2), ...xs) + beside
  const top = Math.min(0, ...ys) - MARGIN
  const bottom = Math.max(build.body.length_m * UNITS, ...ys) + MARGIN
  return { x: -half, y: top, width: 2 * half, height: bottom - top }
}

/** The room beside the car that the longest name outside of it needs. */
export function roomFor(build: BuildView, labels: Record<string, Label>, names: Record<string, string>): number {
  const edge = build.body.width_m * (UNITS / 2)
  const reach = Object.entries(labels).map(([id, label]) => {
    const { left, right } = spanOf(label, (names[id]?.length ?? 0) * LETTER)
    return Math.max(-left, right)
  })
  return Math.max(30, Math.max(0, ...reach) - edge + 8)
}

export interface Label extends Point {
  anchor: 'start' | 'middle' | 'end'
}

export const LETTER = 5.2
const CLEAR = 9
/** How far a name may reach beyond the car before it goes over it instead. */
const MOST_BESIDE = 92

/** Where each name stands: beside its point on the outer side, or wherever it covers nothing. */
export function labelsOf(
  points: Record<string, Point>,
  names: Record<string, string>,
  edge: number,
): Record<string, Label> {
  const boxes: { left: number; right: number; y: number }[] = Object.values(points).map((point) => ({
    left: point.x - CLEAR,
    right: point.x + CLEAR,
    y: point.y,
  }))
  const placed: Record<string, Label> = {}
  for (const [id, point] of Object.entries(points)) {
    const wide = (names[id]?.length ?? 0) * LETTER
    const outer = point.x < -5 ? -1 : 1
    const beside = (side: number): Label => ({
      x: point.x + 12 * side,
      y: point.y + 4,
      anchor: side < 0 ? 'end' : 'start',
    })
    const over = (dy: number): Label => ({ x: point.x, y: point.y + dy, anchor: 'middle' })
    const choices = [beside(outer), over(-12), over(21), beside(-outer)]
    const near = choices.filter((label) => {
      const { left, right } = spanOf(label, wide)
      return Math.max(-left, right) <= edge + MOST_BESIDE
    })
    const best =
      near.find((label) => boxes.every((box) => clear(label, wide, box))) ?? near[0] ?? choices.at(-1)!
    const { left, right } = spanOf(best, wide)
    boxes.push({ left, right, y: best.y - 4 })
    placed[id] = best
  }
  return placed
}

function spanOf(label: Label, wide: number): { left: number; right: number } {
  const left = label.x - (label.anchor === 'end' ? wide : label.anchor === 'middle' ? wide / 2 : 0)
  return { left, right: left + wide }
}

function clear(label: Label, wide: number, box: { left: number; right: number; y: number }): boolean {
  const { left, right } = spanOf(label, wide)
  return Math.abs(label.y - 4 - box.y) > 11 || right < box.left || left > box.right
}
