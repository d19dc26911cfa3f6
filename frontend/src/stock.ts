import type { GridColumn, GridGroup, GridRow } from './components/StockGrid.vue'
import type { Schemas } from './api/client'

export type StockRow = Schemas['StockRowView']
export type Stock = Schemas['StockView']
export type Grouping = 'function' | 'place' | 'state' | 'none'

const WIDTHS: Record<string, number> = {
  name: 138,
  what: 136,
  where: 120,
  rating: 100,
  test_v: 104,
  inrush_x: 92,
  inrush_s: 108,
  stall_a: 100,
  duty: 128,
  state: 68,
  key: 68,
  switch: 116,
  through: 56,
  fuse: 104,
  source: 150,
  note: 200,
}
const FIGURES = ['rating', 'test_v', 'inrush_x', 'inrush_s', 'stall_a']
export const MAIN_COLUMNS = ['name', 'what', 'where', 'rating', 'state', 'key', 'switch', 'through', 'fuse']
const STATES = ['to decide', 'keep', 'adapt', 'new', 'remove', 'spare']
const GROUP_TITLES: Record<string, string> = {
  lighting: 'Lighting',
  accessory: 'Accessories',
  engine: 'Engine',
  switch: 'Switches',
  feed: 'Feeds',
  switches: 'Switches',
  sensors: 'Sensors',
  boxes: 'Boxes',
  feeds: 'Feeds and grounds',
}
const GROUP_ORDER = ['Lighting', 'Accessories', 'Engine', 'Switches', 'Sensors', 'Boxes', 'Feeds and grounds']

/** The columns of the list with what typing completes to. */
export function gridColumns(
  stock: Stock,
  places: string[],
  choices: Schemas['ChoicesView'] | undefined,
  all: boolean,
): GridColumn[] {
  const options: Record<string, string[]> = {
    what: Object.values(stock.kinds).flat(),
    where: places,
    state: STATES,
    key: ['always', 'accessory', 'run'],
    switch: ['key only', ...(choices?.switches.map((row) => row.name) ?? [])],
    through: ['direct', 'relay'],
    fuse: choices?.fuses.map((row) => row.name) ?? [],
    duty: ['for ever', 'minutes', 'flashing', 'seconds'],
  }
  return stock.columns
    .filter((column) => all || MAIN_COLUMNS.includes(column.key))
    .map((column) => ({
      ...column,
      unit: undefined,
      width: WIDTHS[column.key] ?? 84,
      options: options[column.key],
      figure: FIGURES.includes(column.key),
    }))
}

/** The rows that match, sorted as asked, in groups with their titles. */
export function gridGroups(
  rows: StockRow[],
  by: Grouping,
  wanted: string,
  sorted: { key: string; up: boolean } | null,
): GridGroup[] {
  const words = wanted.trim().toLowerCase().split(/\s+/).filter(Boolean)
  const matching = rows.filter((row) => {
    const text = Object.values(row.cells).join(' ').toLowerCase()
    return words.every((word) => text.includes(word))
  })
  if (sorted) {
    const { key, up } = sorted
    const compare = new Intl.Collator('en', { numeric: true }).compare
    matching.sort((a, b) => compare(a.cells[key] ?? '', b.cells[key] ?? '') * (up ? 1 : -1))
  }
  const groups = new Map<string, GridRow[]>()
  for (const row of matching) {
    const title = titleOf(row, by)
    groups.set(title, [...(groups.get(title) ?? []), gridRow(row)])
  }
  const order = (title: string) => {
    const at = GROUP_ORDER.indexOf(title)
    return at < 0 ? GROUP_ORDER.length : at
  }
  const titles = [...groups.keys()].sort((a, b) => (by === 'function' ? order(a) - order(b) : 0))
  return titles.map((title) => ({ title, rows: groups.get(title)! }))
}

function titleOf(row: StockRow, by: Grouping): string {
  if (by === 'place') return row.cells.where || 'Not placed yet'
  if (by === 'state') return row.cells.state ?? ''
  return by === 'none' ? '' : (GROUP_TITLES[row.function] ?? row.function)
}

function gridRow(row: StockRow): GridRow {
  const figures = row.group === 'loads' ? ['rating', 'test_v', 'inrush_x', 'inrush_s', 'stall_a', 'duty'] : []
  const marked = figures.filter((key) => row.cells[key])
  return {
    id: row.part,
    cells: { ...row.cells },
    marks: Object.fromEntries(
      marked.map((key) => [key, row.yours.includes(key) ? 'yours' : 'typical']),
    ),
  }
}
