import { addDays, type LocalDate } from "core/calendar/index.ts"
import { isoDay } from "core/calendar/schema.ts"
import { type OnTime, onTimeOf } from "core/rating/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { parse } from "csv-parse/sync"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"

/** Days back that are measured. */
const measuredDays = 90

/**
 * What was measured of each service, by its id: on the lane to a receiver, where one is named and enough came there, else
 * on all lanes.
 */
export async function onTimeBy(db: Knex, today: LocalDate, lane = ""): Promise<Map<number, OnTime>> {
  const rows = await db("delivery")
    .where("ship_date", ">=", addDays(today, -measuredDays))
    .groupByRaw("service_id, lane = ?, DATEDIFF(delivered_on, promised_on)", [lane])
    .select<{ service_id: number; here: number; days: number; packages: number }[]>(
      "service_id",
      db.raw("lane = ? AS here", [lane]),
      db.raw("DATEDIFF(delivered_on, promised_on) AS days"),
      db.raw("COUNT(*) AS packages"),
    )
  const by = new Map<number, { here: boolean; days: number; packages: number }[]>()
  for (const row of rows)
    by.set(row.service_id, [
      ...(by.get(row.service_id) ?? []),
      { here: lane !== "" && Number(row.here) === 1, days: Number(row.days), packages: Number(row.packages) },
    ])
  return new Map(
    [...by].flatMap(([id, lateness]) => {
      const measured = onTimeOf(lateness.filter((one) => one.here)) ?? onTimeOf(lateness)
      return measured ? [[id, measured] as const] : []
    }),
  )
}

const delivered = z.object({
  tracking: z.string().min(1).max(40),
  service_id: z.number(),
  ship_date: isoDay,
  promised_on: isoDay,
  delivered_on: isoDay,
})
/** Most rows of a file. */
const most = 100_000

/**
 * Takes in when packages were delivered: CSV with `tracking` and `delivered_on`; of packages that are not ours also
 * `service`, `ship_date` and `promised_on`. A package is one however often it comes; bad rows are told by line, and
 * nothing is imported with them.
 */
export async function importDeliveries(
  context: Context,
  text: string,
): Promise<Outcome<{ readonly packages: number }>> {
  const { db, actor, now } = context
  authorise(actor, "tariffs.manage")
  let rows: Record<string, string>[]
  try {
    rows = parse(text, { columns: true, bom: true, trim: true, skip_empty_lines: true, relax_column_count: true })
  } catch (error) {
    return refused(reason("delivery.no-csv", { why: (error as Error).message.slice(0, 120) }))
  }
  if (rows.length === 0) return refused(reason("delivery.no-rows"))
  if (rows.length > most) return refused(reason("delivery.too-many", { most }))
  const ours = new Map(
    (
      await db("package as p")
        .join("shipment as s", "s.id", "p.shipment_id")
        .whereIn(
          "p.tracking",
          rows.slice(0, most).map((row) => row.tracking ?? ""),
        )
        .whereNotNull("s.service_id")
        .select("p.tracking", "s.service_id", "s.ship_date", "s.arrives_on")
    ).map((row) => [row.tracking, row]),
  )
  const services = new Map((await db("service").select("id", "code")).map((row) => [row.code, row.id]))
  const wrong: Reason[] = []
  const kept = rows.flatMap((row, at) => {
    const own = ours.get(row.tracking ?? "")
    const read = delivered.safeParse({
      tracking: row.tracking ?? "",
      service_id: own?.service_id ?? services.get((row.service ?? "").toUpperCase()),
      ship_date: own?.ship_date ?? row.ship_date,
      promised_on: own?.arrives_on ?? row.promised_on,
      delivered_on: row.delivered_on,
    })
    if (read.success) return [read.data]
    const field = String(read.error.issues[0]?.path[0] ?? "").replace("service_id", "service")
    wrong.push(reason("delivery.row", { line: at + 2, field, value: (row[field] ?? "").slice(0, 40) }))
    return []
  })
  if (wrong.length > 0) return refused(...wrong.slice(0, 10))
  await inTransaction(db, async (trx) => {
    for (let at = 0; at < kept.length; at += 500)
      await trx("delivery")
        .insert(kept.slice(at, at + 500))
        .onConflict("tracking")
        .merge(["delivered_on"])
    await record(trx, actor, now, { action: "delivery.imported", detail: { packages: kept.length } })
  })
  return accepted({ packages: kept.length })
}
