import type { Readable } from "node:stream"
import { localDate } from "core/calendar/index.ts"
import { type ElsewhereText, readElsewhere } from "core/elsewhere/index.ts"
import { identifier } from "core/identifier/index.ts"
import type { Id } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { announce, parsed, record } from "../audit/index.ts"
import { businessNow } from "../clock/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId, there } from "../db/there.ts"
import { FileRefused } from "../formats/orderRow.ts"
import { csvRecords } from "../formats/ordersCsv.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { recordElsewhere } from "./elsewhere.ts"
import { takingTracking } from "./jobs.ts"

type FileId = Id<"tracking_file">

/** The columns of a file of tracking numbers; those after the third may be left out. */
export const trackingColumns = [
  "order_number",
  "carrier",
  "tracking",
  "shipped_on",
  "cost",
  "currency",
  "service",
] as const
const needed = trackingColumns.slice(0, 3)

/** So many rows a file has at most. */
export const mostTrackingRows = 60_000
const atOnce = 500

/**
 * Reads a file of tracking numbers for many orders (CSV, RFC 4180) and keeps it as a preview: each row good or refused
 * with its line, field and reason, so that a bad one loses no other. An order is named by our number or its source's.
 * Throws FileRefused.
 */
export async function previewTracking(context: Context, name: string, file: Readable): Promise<FileId> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  const today = localDate(now, warehouse.zone)
  const id = newId(
    await db("tracking_file").insert({
      warehouse_id: warehouse.id,
      name: name.slice(0, 120),
      made_at: now,
      made_by: actor.name,
      user_id: actor.userId,
    }),
  )
  try {
    let waiting: Read[] = []
    const keep = async () => {
      await keepRows(db, id, await judge(db, warehouse, today, waiting))
      waiting = []
    }
    let count = 0
    for await (const { record: row, line, unequal } of csvRecords(file, () => undefined, null, checkedHeader)) {
      count += 1
      if (count > mostTrackingRows) throw new FileRefused(reason("elsewhere.file-rows", { most: mostTrackingRows }))
      waiting.push({ line, row, unequal })
      if (waiting.length >= atOnce) await keep()
    }
    if (count === 0) throw new FileRefused(reason("file.empty"))
    await keep()
    return id
  } catch (error) {
    await db("tracking_file").where({ id }).delete()
    throw error
  }
}

function checkedHeader(header: string[]): string[] {
  const names = header.map((one) => one.trim().toLowerCase())
  const missing = needed.filter((one) => !names.includes(one))
  if (missing.length > 0) throw new FileRefused(reason("elsewhere.columns", { columns: missing.join(", ") }))
  return names
}

interface Read {
  readonly line: number
  readonly row: Readonly<Record<string, string>>
  readonly unequal: boolean
}
interface Judged {
  readonly line: number
  readonly orderNumber: string
  readonly orderId: number | null
  readonly text: ElsewhereText
  readonly why: readonly Reason[]
}

const textOf = (row: Readonly<Record<string, string>>): ElsewhereText => ({
  carrier: row.carrier ?? "",
  service: row.service ?? "",
  tracking: row.tracking ?? "",
  shippedOn: row.shipped_on ?? "",
  cost: row.cost ?? "",
  currency: row.currency ?? "",
})

/** Which order each row is of, and what is wrong with it. */
async function judge(
  db: Knex,
  warehouse: { readonly id: number; readonly currency: string },
  today: ReturnType<typeof localDate>,
  rows: readonly Read[],
): Promise<Judged[]> {
  const numbers = [...new Set(rows.map(({ row }) => identifier(row.order_number ?? "").slice(0, 80)))].filter(Boolean)
  const orders =
    numbers.length === 0
      ? []
      : await db("sales_order")
          .where({ warehouse_id: warehouse.id })
          .where((either) => either.whereIn("order_number", numbers).orWhereIn("source_number", numbers))
          .select("id", "order_number", "source_number", "ordered_on", "cancelled_at")
  const byNumber = new Map<string, (typeof orders)[number][]>()
  for (const one of orders)
    for (const number of new Set([one.order_number, one.source_number]))
      byNumber.set(number, [...(byNumber.get(number) ?? []), one])
  return rows.map(({ line, row, unequal }) => {
    const orderNumber = identifier(row.order_number ?? "").slice(0, 80)
    const text = textOf(row)
    const found = byNumber.get(orderNumber) ?? []
    const [order] = found
    const why: Reason[] = []
    if (unequal) why.push(reason("elsewhere.row-columns"))
    if (!order) why.push(reason("elsewhere.no-order", { number: orderNumber.slice(0, 40) || "–" }))
    else if (found.length > 1) why.push(reason("elsewhere.several", { number: orderNumber, n: found.length }))
    else if (order.cancelled_at) why.push(reason("order.is-cancelled"))
    const read = readElsewhere(text, today, order?.ordered_on ?? null, warehouse.currency)
    if (!read.ok) why.push(...read.reasons)
    return { line, orderNumber, orderId: order && found.length === 1 ? order.id : null, text, why }
  })
}

async function keepRows(db: Knex, fileId: FileId, rows: readonly Judged[]): Promise<void> {
  if (rows.length === 0) return
  await db("tracking_row").insert(
    rows.map((one) => ({
      file_id: fileId,
      line: one.line,
      order_number: one.orderNumber,
      order_id: one.orderId,
      body: JSON.stringify(one.text),
      state: one.why.length > 0 ? ("refused" as const) : ("good" as const),
      why: one.why.length > 0 ? JSON.stringify(one.why) : null,
    })),
  )
}

export interface TrackingFile {
  readonly id: number
  readonly name: string
  readonly state: "preview" | "taking" | "done"
  readonly madeAt: Date
  readonly madeBy: string
  readonly good: number
  readonly taken: number
  readonly refused: number
}

/** Refused rows that a page shows; all of them are in the file that can be downloaded. */
const mostShown = 200

/** The files of a warehouse, the newest first. */
export async function trackingFiles(db: Knex, warehouseId: number): Promise<TrackingFile[]> {
  const files = await db("tracking_file").where({ warehouse_id: warehouseId }).orderBy("id", "desc").limit(20)
  return withCounts(db, files)
}

async function withCounts(
  db: Knex,
  files: readonly { id: number; name: string; state: TrackingFile["state"]; made_at: Date; made_by: string }[],
): Promise<TrackingFile[]> {
  const counts = await db("tracking_row")
    .whereIn(
      "file_id",
      files.map((one) => one.id),
    )
    .groupBy("file_id", "state")
    .select<{ file_id: number; state: string; n: number }[]>("file_id", "state", db.raw("COUNT(*) AS n"))
  const of = (id: number, state: string) =>
    Number(counts.find((one) => one.file_id === id && one.state === state)?.n ?? 0)
  return files.map((one) => ({
    id: one.id,
    name: one.name,
    state: one.state,
    madeAt: one.made_at,
    madeBy: one.made_by,
    good: of(one.id, "good"),
    taken: of(one.id, "taken"),
    refused: of(one.id, "refused"),
  }))
}

export interface RefusedRow {
  readonly line: number
  readonly orderNumber: string
  readonly text: ElsewhereText
  readonly why: readonly Reason[]
}

/** A file of a warehouse with its refused rows, as many as a page shows unless all are asked for. */
export async function trackingFile(
  db: Knex,
  warehouseId: number,
  id: FileId,
  all = false,
): Promise<{ readonly file: TrackingFile; readonly refused: readonly RefusedRow[] } | null> {
  const row = await db("tracking_file").where({ id, warehouse_id: warehouseId }).first()
  if (!row) return null
  const [file] = await withCounts(db, [row])
  const query = db("tracking_row").where({ file_id: id, state: "refused" }).orderBy("line")
  const rows = all ? await query : await query.limit(mostShown)
  return {
    file: there(file),
    refused: rows.map((one) => ({
      line: one.line,
      orderNumber: one.order_number,
      text: parsed<ElsewhereText>(one.body),
      why: parsed<Reason[]>(one.why),
    })),
  }
}

/** Asks that the good rows of a preview be recorded; a job does so, a row at a time. Safe to repeat. */
export async function takeTracking(context: Context, id: FileId): Promise<Outcome<{ readonly n: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly n: number }>> => {
    const file = await trx("tracking_file")
      .where({ id, warehouse_id: actor.warehouseId })
      .forUpdate()
      .first("state", "name")
    if (!file) return refused(reason("elsewhere.no-file"))
    const [{ n = 0 } = {}] = await trx("tracking_row").where({ file_id: id, state: "good" }).count({ n: "id" })
    if (file.state !== "preview") return accepted({ n: Number(n) })
    if (Number(n) === 0) return refused(reason("elsewhere.nothing-good"))
    await trx("tracking_file").where({ id }).update({ state: "taking", made_by: actor.name, user_id: actor.userId })
    await takingTracking.queue(trx, `tracking:${id}`, { fileId: id })
    await record(trx, actor, now, {
      action: "order.tracking-file",
      warehouseId: actor.warehouseId,
      detail: { file: file.name, n: Number(n) },
    })
    return accepted({ n: Number(n) })
  })
}

/** Records every good row of a file, each in a transaction of its own; what can't be recorded any more is refused. */
export async function takeTrackingRows(db: Knex, id: FileId): Promise<void> {
  const file = await db("tracking_file").where({ id, state: "taking" }).first()
  if (!file) return
  const actor = { userId: file.user_id, name: file.made_by, role: "clerk" as const, warehouseId: file.warehouse_id }
  for (;;) {
    const rows = await db("tracking_row").where({ file_id: id, state: "good" }).orderBy("id").limit(100)
    if (rows.length === 0) break
    for (const row of rows) {
      const context: Context = { db, actor, now: await businessNow(db) }
      const outcome = await recordElsewhere(context, row.order_id ?? 0, parsed<ElsewhereText>(row.body))
      await db("tracking_row")
        .where({ id: row.id, state: "good" })
        .update(outcome.ok ? { state: "taken" } : { state: "refused", why: JSON.stringify(outcome.reasons) })
    }
    await announce(db, { warehouseId: file.warehouse_id })
  }
  await db("tracking_file").where({ id, state: "taking" }).update({ state: "done" })
  await announce(db, { warehouseId: file.warehouse_id })
}
