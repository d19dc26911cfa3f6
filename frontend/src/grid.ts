/** A rectangle of cells in a list, and text to and from a spreadsheet. */

export interface Cell {
  row: number
  column: number
}

/** Rows and columns from the first to the last, both included. */
export interface Block {
  top: number
  bottom: number
  left: number
  right: number
}

export function blockOf(one: Cell, other: Cell): Block {
  return {
    top: Math.min(one.row, other.row),
    bottom: Math.max(one.row, other.row),
    left: Math.min(one.column, other.column),
    right: Math.max(one.column, other.column),
  }
}

export function within(block: Block, row: number, column: number): boolean {
  return row >= block.top && row <= block.bottom && column >= block.left && column <= block.right
}

export function range(first: number, last: number): number[] {
  return Array.from({ length: Math.max(last - first + 1, 0) }, (_, index) => first + index)
}

/** Cells as a spreadsheet takes them: tabs between, a line a row, quotes where they are needed. */
export function toClipboard(cells: string[][]): string {
  const quoted = (text: string) => (/[\t\n"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)
  return cells.map((row) => row.map(quoted).join('\t')).join('\n')
}

/** The cells in pasted text; a quoted cell may hold tabs and line ends. */
export function fromClipboard(text: string): string[][] {
  const rows: string[][] = [[]]
  const cell = /(?:"((?:[^"]|"")*)"|([^\t\r\n]*))(\t|\r\n|\n|\r|$)/y
  while (cell.lastIndex < text.length) {
    const match = cell.exec(text)
    if (!match) return text.split(/\r?\n/).map((line) => line.split('\t'))
    rows.at(-1)!.push(match[1]?.replaceAll('""', '"') ?? match[2] ?? '')
    if (match[3] === '') break
    if (match[3] !== '\t') rows.push([])
    else if (cell.lastIndex === text.length) rows.at(-1)!.push('')
  }
  return rows.filter((row) => row.length > 0)
}
