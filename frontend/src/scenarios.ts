import type { BuildView, Operation, Schemas } from '@/api/client'
import { freshId } from '@/looms'

export type ScenarioRow = Schemas['ScenarioBudget']
export type Fields = Partial<Schemas['ScenarioView']>

/** The operation that changes a scenario: the build keeps it whole from the first change on. */
export function changed(build: BuildView, row: ScenarioRow, fields: Fields): Operation {
  const kept = build.scenarios.find((scenario) => scenario.id === row.id)
  if (kept) return { op: 'change', collection: 'scenarios', id: row.id, fields }
  return { op: 'add', collection: 'scenarios', value: { ...asItIs(build, row), ...fields } }
}

/** Another scenario that begins as a copy of this one. */
export function copied(build: BuildView, row: ScenarioRow, name: string): Operation {
  const id = freshId(`own ${name}`, build.scenarios)
  return { op: 'add', collection: 'scenarios', value: { ...asItIs(build, row), id, name } }
}

function asItIs(build: BuildView, row: ScenarioRow): Schemas['ScenarioView'] {
  const kept = build.scenarios.find((scenario) => scenario.id === row.id)
  if (kept) return kept
  const { id, name, key, road, pace, engine_rpm, outside_c, charge, charges, measured_a } = row
  return { id, name, key, road, pace, engine_rpm, outside_c, charge, charges, measured_a, on: {}, shed: [] }
}

/** Amps as they are typed: `38 mA`, `0,038`, `1.2 A`; null when it is neither. */
export function typedAmps(text: string): number | null {
  const match = /^\s*(\d+(?:[.,]\d+)?)\s*(m?)A?\s*$/i.exec(text)
  if (!match) return null
  return Number(match[1]!.replace(',', '.')) * (match[2] ? 0.001 : 1)
}
