import type { BuildView } from './api/client'
import { byId } from './byId'

/** A terminal as the builder reads it: the part's own name, then the terminal. */
export function terminalName(build: BuildView | undefined, terminal: string): string {
  const dot = terminal.indexOf('.')
  const part = byId(build?.parts).get(terminal.slice(0, dot))
  return part ? `${part.name} · ${terminal.slice(dot + 1)}` : terminal
}
