/** What the browser kept under a name; what is spoiled there counts as nothing. */
export function keptIn<T>(where: Storage, name: string, otherwise: T): T {
  try {
    return (JSON.parse(where.getItem(name) ?? 'null') as T | null) ?? otherwise
  } catch {
    return otherwise
  }
}
