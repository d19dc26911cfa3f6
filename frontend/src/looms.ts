import type { Asked, Collection, Operation, Schemas } from './api/client'

export const CONDITIONS = ['sound', 'worn', 'chopped', 'burned', 'missing']
export const DECISIONS = ['to decide', 'keep', 'mend', 'replace', 'cut back', 'remove']

/** A fresh id for a thing of a collection, made from its name. */
export function freshId(name: string, taken: { id: string }[]): string {
  const stem = name.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-+|-+$/g, '').slice(0, 50) || 'entry'
  const ids = new Set(taken.map((row) => row.id))
  let id = stem
  for (let number = 2; ids.has(id); number++) id = `${stem}-${number}`
  return id
}

type Fields = Record<string, unknown>

export function add(collection: Collection, value: Fields): Asked<'add'> {
  return { op: 'add', collection, value }
}

export function change(collection: Collection, id: string, fields: Fields): Operation {
  return { op: 'change', collection, id, fields }
}

export function remove(collection: Collection, id: string): Operation {
  return { op: 'remove', collection, id }
}

export function options(values: string[]): { value: string; label: string }[] {
  return values.map((value) => ({ value, label: value || '–' }))
}

/** The worst of some remarks, fine where there are none. */
export function worst(remarks: Schemas['RemarkView'][] | undefined): string {
  const order = ['stop', 'look', 'note']
  return order.find((severity) => remarks?.some((row) => row.severity === severity)) ?? 'fine'
}
