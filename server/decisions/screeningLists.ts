import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { parse } from "csv-parse/sync"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { recheckWhere } from "./again.ts"

export interface ScreeningList {
  readonly list: string
  readonly entries: number
}

export const screeningLists = async (db: Knex): Promise<ScreeningList[]> =>
  (await db("screening_entry").groupBy("list").orderBy("list").select("list").count({ n: "*" })).map(
    (row: { list?: string; n?: unknown }) => ({
      list: String(row.list),
      entries: Number(row.n),
    }),
  )

const most = 50_000

/**
 * Takes a list in from CSV (`reference,name,street,city,country`) in place of what it held before, and looks again at
 * the orders abroad that nobody has begun. Refused whole with the line of the first fault.
 */
export async function putScreeningList(
  context: Context,
  list: string,
  csv: string,
): Promise<Outcome<{ entries: number }>> {
  const { db, actor, now } = context
  authorise(actor, "screening.manage")
  const title = list.trim()
  if (!/^[\w][\w .-]{0,39}$/.test(title)) return refused(reason("screening.title"))
  let rows: Record<string, string>[]
  try {
    rows = parse(csv, {
      bom: true,
      columns: (header: string[]) => header.map((name) => name.trim().toLowerCase()),
      skip_empty_lines: true,
      trim: true,
    })
  } catch (error) {
    return refused(reason("screening.not-csv", { detail: (error as Error).message.slice(0, 80) }))
  }
  if (rows.length > most) return refused(reason("screening.too-many", { limit: most }))
  const bad = rows.findIndex((row) => !row.name?.trim())
  if (rows.length === 0 || bad >= 0) return refused(reason("screening.no-name", { line: bad + 2 }))
  const entries = rows.map((row) => ({
    list: title,
    reference: (row.reference ?? "").slice(0, 40),
    name: (row.name ?? "").slice(0, 160),
    street: (row.street ?? "").slice(0, 120),
    city: (row.city ?? "").slice(0, 60),
    country: /^[A-Za-z]{2}$/.test(row.country ?? "") ? (row.country as string).toUpperCase() : "",
  }))
  await inTransaction(db, async (trx) => {
    await trx("screening_entry").where({ list: title }).delete()
    for (let at = 0; at < entries.length; at += 500) await trx("screening_entry").insert(entries.slice(at, at + 500))
    await record(trx, actor, now, {
      action: "screening.list-put",
      detail: { list: title, entries: entries.length },
    })
  })
  await recheckWhere(context, (query) =>
    query
      .join("warehouse as w", "w.id", "o.warehouse_id")
      .whereRaw("o.country <> w.country")
      .whereNull("o.left_line_at"),
  )
  return accepted({ entries: entries.length })
}
