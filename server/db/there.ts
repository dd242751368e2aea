/**
 * A row that must be there, because what asked for it holds its number from a row that refers to it. Throws where it is
 * not: then the database is damaged, or the number came from outside and had to be asked about first.
 */
export function there<Row>(row: Row): NonNullable<Row> {
  if (row === null || row === undefined) throw new Error("a row that others refer to is not there")
  return row
}

/** The id that the database gave an inserted row. Throws where it gave none. */
export function newId(inserted: readonly unknown[]): number {
  const [id] = inserted
  if (typeof id !== "number") throw new Error("the database gave an inserted row no id")
  return id
}

/** A column of a row by a name that is worked out. */
export const columnOf = (row: object, name: string): unknown => (row as Readonly<Record<string, unknown>>)[name]
