const known = new WeakMap<object, unknown>()

/** The rows of a list that the server sent, by id; made once for each list. */
export function byId<Row extends { id: string }>(rows: readonly Row[] = []): ReadonlyMap<unknown, Row> {
  if (!known.has(rows)) known.set(rows, new Map(rows.map((row) => [row.id, row])))
  return known.get(rows) as ReadonlyMap<unknown, Row>
}
