import type { Point } from './plan'

const ROUNDS = 400

/** Points moved apart until none is nearer to another than the gap, each as near to its own place as that lets it. */
export function apart(points: Record<string, Point>, gap: number): Record<string, Point> {
  const ids = Object.keys(points)
  const at = ids.map((id, n) => {
    // points of one place start on a spiral, so that they leave it in different directions
    const angle = n * 2.4
    const first = ids.filter((other, m) => m < n && near(points[other]!, points[id]!, 1)).length
    const out = gap * 0.55 * Math.sqrt(first)
    return { x: points[id]!.x + out * Math.cos(angle), y: points[id]!.y + out * Math.sin(angle) }
  })
  for (let round = 0; round < ROUNDS; round++) {
    let moved = false
    for (let a = 0; a < at.length; a++) {
      for (let b = a + 1; b < at.length; b++) {
        const dx = at[b]!.x - at[a]!.x
        const dy = at[b]!.y - at[a]!.y
        const away = Math.hypot(dx, dy)
        if (away >= gap) continue
        moved = true
        const push = (gap - away) / 2 + 0.05
        const ux = away > 0.01 ? dx / away : 1
        const uy = away > 0.01 ? dy / away : 0
        at[a]!.x -= ux * push
        at[a]!.y -= uy * push
        at[b]!.x += ux * push
        at[b]!.y += uy * push
      }
    }
    if (!moved) break
  }
  return Object.fromEntries(ids.map((id, n) => [id, at[n]!]))
}

function near(a: Point, b: Point, gap: number): boolean {
  return Math.abs(a.x - b.x) < gap && Math.abs(a.y - b.y) < gap
}

/** Where names stand in a column beside the car: in the order of what they name, as level with it as
 * the names above and below let them. */
export function levels(wanted: number[], gap: number, top: number, bottom: number): number[] {
  const order = wanted.map((_, n) => n).sort((a, b) => wanted[a]! - wanted[b]!)
  const at: number[] = []
  let least = top
  for (const n of order) {
    at[n] = Math.max(wanted[n]!, least)
    least = at[n]! + gap
  }
  let most = bottom
  for (const n of [...order].reverse()) {
    at[n] = Math.min(at[n]!, most)
    most = at[n]! - gap
  }
  return at
}

/** The colour of the light of a lamp, by what it is called. */
export function lightOf(name: string): string {
  if (/turn|repeater|hazard/i.test(name)) return '#ffac33'
  if (/telltale/i.test(name)) return /main/i.test(name) ? '#6fa8ff' : /charge|oil|brake/i.test(name) ? '#ff6a55' : '#6fd17a'
  if (/tail|stop|rear fog/i.test(name)) return '#ff5a4a'
  return '#fff0bf'
}

/** Whether a lamp throws a beam ahead. */
export const throwsBeam = (name: string) => /(main|dipped|driving|head).*(beam|lamp)|front fog/i.test(name) && !/telltale/i.test(name)
