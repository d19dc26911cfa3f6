/** Figures as the builder reads them; a missing one is a dash. */

const DASH = '–'

export function fixed(value: number | null | undefined, digits: number): string {
  if (value === null || value === undefined) return DASH
  const text = value.toFixed(digits)
  return Number(text) === 0 ? text.replace('-', '') : text
}

export const volts = (value: number | null | undefined) => `${fixed(value, 2)} V`
export const amps = (value: number | null | undefined) =>
  `${fixed(value, value && Math.abs(value) >= 10 ? 1 : 2)} A`

/** A current from mA to hundreds of amps, in the unit that people say it in. */
export function current(value: number | null | undefined): string {
  if (value === null || value === undefined) return DASH
  const size = Math.abs(value)
  if (size > 0 && size < 0.0995) return `${fixed(1000 * value, size < 0.001 ? 1 : 0)} mA`
  return `${fixed(value, size >= 9.95 ? 0 : size >= 0.995 ? 1 : 2)} A`
}

/** A span of time from ms to hours. */
export function lasting(seconds: number): string {
  if (seconds < 1) return `${fixed(1000 * seconds, 0)} ms`
  if (seconds < 120) return `${fixed(seconds, seconds < 10 ? 1 : 0)} s`
  if (seconds < 7200) return `${fixed(seconds / 60, 0)} min`
  return seconds > 100_000 ? 'for ever' : `${fixed(seconds / 3600, 1)} h`
}

export function moment(iso: string): string {
  return new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
}

/** The time of day of a moment in ms. */
export function clock(at: number): string {
  return new Date(at).toLocaleTimeString('en-GB')
}

/** A figure that someone types, with a comma or a point; null when it is not a number. */
export function typedNumber(text: string): number | null {
  const match = /^\s*(-?\d+(?:[.,]\d+)?)\s*$/.exec(text)
  return match ? Number(match[1]!.replace(',', '.')) : null
}

/** Things one after the other, of many so many by name. */
export function listed(things: string[], most: number, between = ', '): string {
  const more = things.length - most
  return `${things.slice(0, most).join(between)}${more > 0 ? ` and ${more} more` : ''}`
}
