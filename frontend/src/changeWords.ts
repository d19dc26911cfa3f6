import type { Schemas } from '@/api/client'

const KINDS: Record<string, string> = {
  load: 'loads',
  relay: 'relays',
  fuse: 'fuses',
  switch: 'switches',
  sensor: 'sensors',
  diode: 'diodes',
  resistor: 'resistors',
  box: 'boxes and units',
  flasher: 'flashers',
}
const COLLECTIONS: Record<string, string> = {
  build: 'figures of the car',
  found_circuits: 'circuits of an old loom',
  harness_circuits: 'circuits of a ready-made harness',
  pin_pairs: 'pairs of pins',
  acceptances: 'findings lived with',
}
const ONE: Record<string, string> = { switches: 'switch', 'boxes and units': 'box or unit' }
const SHOWN = 6

/** What an edit brings, takes away and changes, in the builder's words; circuits are left out. */
export function inWords(changes: Schemas['ChangeView'][]): { said: string; rows: string[] }[] {
  const came = changes.filter((row) => row.before === null)
  const gone = changes.filter((row) => row.after === null)
  const moved = new Set(came.filter((row) => gone.some((one) => one.id === row.id)).map((row) => row.id))
  return [
    { said: 'New', rows: counted(came.filter((row) => !moved.has(row.id))) },
    { said: 'Goes', rows: counted(gone.filter((row) => !moved.has(row.id))) },
    { said: 'Changes', rows: counted(changes.filter((row) => row.before && row.after)) },
  ].filter((group) => group.rows.length)
}

function counted(changes: Schemas['ChangeView'][]): string[] {
  const byKind = new Map<string, string[]>()
  for (const row of changes.filter((one) => one.collection !== 'circuits')) {
    const thing = (row.after ?? row.before)!
    const kind = row.collection === 'parts' ? (KINDS[String(thing.kind)] ?? `${thing.kind}s`) : (COLLECTIONS[row.collection] ?? row.collection)
    byKind.set(kind, [...(byKind.get(kind) ?? []), String(thing.label ?? thing.name ?? '')])
  }
  return [...byKind].map(([kind, names]) => {
    const said = names.length === 1 ? (ONE[kind] ?? kind.replace(/s$/, '')) : kind
    const known = names.filter(Boolean)
    const named = known.length ? `: ${known.slice(0, SHOWN).join(', ')}${known.length > SHOWN ? ' …' : ''}` : ''
    return `${names.length} ${said}${named}`
  })
}
