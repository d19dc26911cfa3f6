import type { Point } from './plan'

const ROUNDS = 400
const STEPS = [-1, 0, 1]
const AROUND = STEPS.flatMap((right) => STEPS.map((down) => [right, down] as const))

/** Points moved apart until none is nearer to another than the gap, each as near to its own place as that lets it. */
export function apart(points: Record<string, Point>, gap: number): Record<string, Point> {
  const ids = Object.keys(points)
  const own = ids.map((id) => points[id]!)
  const beside = neighbours(own, 1)
  const at = own.map(({ x, y }, n) => {
    // points of one place start on a spiral, so that they leave it in different directions
    const angle = n * 2.4
    const first = beside(n).filter((m) => m < n && Math.abs(own[m]!.x - x) < 1 && Math.abs(own[m]!.y - y) < 1).length
    const out = gap * 0.55 * Math.sqrt(first)
    return { x: x + out * Math.cos(angle), y: y + out * Math.sin(angle) }
  })
  for (let round = 0; round < ROUNDS; round++) {
    let moved = false
    const near = neighbours(at, gap)
    at.forEach((one, a) => {
      for (const b of near(a)) {
        if (b <= a) continue
        const other = at[b]!
        const dx = other.x - one.x
        const dy = other.y - one.y
        const away = Math.hypot(dx, dy)
        if (away >= gap) continue
        moved = true
        const push = (gap - away) / 2 + 0.05
        const ux = away > 0.01 ? dx / away : 1
        const uy = away > 0.01 ? dy / away : 0
        one.x -= ux * push
        one.y -= uy * push
        other.x += ux * push
        other.y += uy * push
      }
    })
    if (!moved) break
  }
  return Object.fromEntries(ids.map((id, n) => [id, at[n]!]))
}

/** The points that may be nearer to a point than the gap, by number: those of its square of a grid, and around it. */
function neighbours(points: Point[], gap: number): (n: number) => number[] {
  const squares = new Map<string, number[]>()
  const square = ({ x, y }: Point) => [Math.floor(x / gap), Math.floor(y / gap)] as const
  const cells = points.map(square)
  cells.forEach(([column, row], n) => {
    const name = `${column} ${row}`
    const known = squares.get(name)
    if (known) known.push(n)
    else squares.set(name, [n])
  })
  return (n) => {
    const [column, row] = cells[n]!
    return AROUND.flatMap(([right, down]) => squares.get(`${column + right} ${row + down}`) ?? [])
  }
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
