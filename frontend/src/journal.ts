import type { Schemas } from '@/api/client'
import { listed } from '@/format'

/** The day of an evening as it is said. */
export function dayInWords(day: string): string {
  return new Date(`${day}T12:00`).toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' })
}

/** What was done in an evening beside the builder's own lines, a line each; of many things so many by name. */
export function doneIn(evening: Schemas['EveningView'], most: number): string[] {
  const { made, proved, found, photos, edits } = evening
  return [
    made.length ? `Wires: ${made.join(', ')}` : '',
    proved.length ? `Proved: ${listed(proved, most, '; ')}` : '',
    ...found.map((fault) => `Found and mended: ${fault}`),
    photos ? `${photos} ${photos === 1 ? 'photo' : 'photos'}` : '',
    edits.length ? `Changed: ${listed([...edits].reverse(), most, '; ')}` : '',
  ].filter(Boolean)
}
