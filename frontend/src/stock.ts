import type { BuildView, Operation, Schemas } from './api/client'
import { typedNumber } from './format'

type Part = Schemas['PartView']
type Circuit = Schemas['CircuitView']
export type Wiring = Pick<Schemas['IntentView'], 'key' | 'switch' | 'through'> & { fuse: string | null }

/** One line of the stock list: a load with its circuit. */
export interface StockLine {
  load: Part
  circuit: Circuit | undefined
  /** Whether the circuit has other loads, which then share its wiring. */
  shared: boolean
  /** Whether the rating is the catalogue's typical figure. */
  typical: boolean
}

export function stockLines(build: BuildView): StockLine[] {
  const loads = build.parts.filter((part) => part.kind === 'load')
  return loads.map((load) => ({
    load,
    circuit: build.circuits.find((circuit) => circuit.id === load.circuit),
    shared: loads.filter((other) => other.circuit === load.circuit).length > 1,
    typical: !('rated_w' in load.figures) && !('rated_a' in load.figures),
  }))
}

/** The rating in the unit it is given in: the load's own figure, or its catalogue row's. */
export function ratingText(load: Part, catalogue: Schemas['CatalogueLoad'][]): string {
  if ('rated_w' in load.figures) return `${load.figures.rated_w} W`
  if ('rated_a' in load.figures) return `${load.figures.rated_a} A`
  const row = catalogue.find((one) => one.name === load.catalogue)
  if (!row) return ''
  return row.rated_w === null ? `${row.rated_a} A` : `${row.rated_w} W`
}

/** The figures that a typed rating stands for; empty text goes back to typical, null is not readable. */
export function ratingFigures(
  load: Part,
  text: string,
  usual: string,
): Record<string, number | string> | null {
  const figures = Object.fromEntries(
    Object.entries(load.figures).filter(([name]) => name !== 'rated_w' && name !== 'rated_a'),
  )
  if (!text.trim()) return figures
  const match = /^(.*?)\s*([wa])?\s*$/i.exec(text)
  const value = typedNumber(match?.[1] ?? '')
  if (value === null) return null
  const unit = (match?.[2] ?? usual.slice(-1)).toLowerCase()
  return { ...figures, [unit === 'w' ? 'rated_w' : 'rated_a']: value }
}

export function changePart(id: string, fields: Record<string, unknown>): Operation {
  return { op: 'change', collection: 'parts', id, fields }
}

export function rewire(circuit: Circuit, changed: Partial<Wiring>): Operation {
  const { key, switch: by, through, fuse } = circuit.intent!
  return { op: 'rewire_circuit', circuit: circuit.id, wiring: { key, switch: by, through, fuse, ...changed } }
}
