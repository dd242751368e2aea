import type { Knex } from "knex"

/**
 * Sets columns of many rows of a table to values of their own, in one statement. All rows name the same columns.
 *
 * @param rows the id of each row and its new values
 */
export async function updateEach(
  trx: Knex,
  table: string,
  rows: readonly (Readonly<Record<string, string | number | null>> & { readonly id: number })[],
): Promise<void> {
  const [first] = rows
  if (!first) return
  const columns = Object.keys(first)
  const row = (named: boolean) => `SELECT ${columns.map(() => (named ? "? AS ??" : "?")).join(", ")}`
  const values = rows.flatMap((one, index) =>
    columns.flatMap((name) => (index === 0 ? [one[name] ?? null, name] : [one[name] ?? null])),
  )
  const sets = columns.filter((name) => name !== "id")
  await trx.raw(
    `UPDATE ?? AS t JOIN (${rows.map((_, index) => row(index === 0)).join(" UNION ALL ")}) AS v ON v.id = t.id
     SET ${sets.map(() => "t.?? = v.??").join(", ")}`,
    [table, ...values, ...sets.flatMap((name) => [name, name])],
  )
}
