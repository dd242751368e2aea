import type { IntakeId, SourceId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { Flag, IntakeOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { fields, type OrderRow, readRow } from "../formats/orderRow.ts"
import { pickingBegun } from "../orders/begun.ts"
import { Catalogue } from "./catalogue.ts"
import { draftFrom } from "./draft.ts"
import { differences } from "./oneOrder.ts"
import { sourceFromRow, wishOf } from "./source.ts"
import { type Fate, fateOf, takeIn } from "./take.ts"

export interface IntakeOrder {
  readonly number: string
  readonly customer: string
  readonly place: string
  readonly goodRows: number
  readonly refusedRows: number
  /** What taking in will do, or has done. */
  readonly fate: Fate | "earlier"
  /** What went wrong with an order that was set aside. */
  readonly trouble: string
  readonly orderNumber: string | null
}

export interface RefusedRow {
  readonly line: number
  readonly raw: Readonly<Record<string, string>>
  readonly refusals: readonly Reason[]
}

export interface IntakePreview {
  readonly id: number
  readonly name: string
  readonly source: string
  readonly format: string
  readonly uploadedAt: Date
  readonly takenAt: Date | null
  readonly state: "reading" | "read" | "taking" | "taken"
  readonly rowCount: number
  readonly orderCount: number
  readonly takenCount: number
  /** Orders from the page's first on. */
  readonly orders: readonly IntakeOrder[]
  /** What would become of all orders that are not imported yet, or has become of those that are, by fate. */
  readonly fates: Readonly<Partial<Record<IntakeOrder["fate"], number>>>
  readonly refusedCount: number
  readonly refused: readonly RefusedRow[]
}

/** Orders and refused rows that a page of an intake shows. */
export const pageOfIntake = 200

/** What an intake holds and what taking it in would do, order by order. Null when there is no such intake here. */
export async function intakePreview(context: Context, intakeId: IntakeId, from = 0): Promise<IntakePreview | null> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const file = await db("intake_file as f")
    .join("order_source as s", "s.id", "f.source_id")
    .where({ "f.id": intakeId, "f.warehouse_id": actor.warehouseId })
    .first("f.*", "s.name as source")
  if (!file) return null
  const orders = await fated(db, file, (query) =>
    query.where({ "i.intake_id": intakeId }).orderBy("i.position").offset(from).limit(pageOfIntake),
  )
  const refused = await db("intake_row")
    .where({ intake_id: intakeId, refused: true })
    .orderBy("line")
    .limit(pageOfIntake)
    .select("line", "raw", "refusals")
  return {
    id: file.id,
    name: file.name,
    source: file.source,
    format: file.format,
    uploadedAt: file.uploaded_at,
    takenAt: file.taken_at,
    state: file.state,
    rowCount: file.row_count,
    orderCount: file.order_count,
    takenCount: file.taken_count,
    orders,
    fates: await fateCounts(db, file),
    refusedCount: file.refused_count,
    refused: refused.map((row) => ({
      line: row.line,
      raw: parsed<Record<string, string>>(row.raw),
      refusals: parsed<Reason[]>(row.refusals),
    })),
  }
}

type Narrow = (query: Knex.QueryBuilder) => Knex.QueryBuilder

/** An intake file as far as its orders' fates depend on it. */
interface Came {
  readonly id: number
  readonly source_id: number
  readonly warehouse_id: number
}

/** An order of a file with the order that is here by its number, if there is one. */
type FatedRow = IntakeOrderRow & {
  readonly order_id: number | null
  readonly here_number: string | null
  readonly here_hash: string
  readonly cancelled_at: Date | null
  readonly source_waits: Flag
  readonly lines_changed_at: Date | null
  readonly came_to: number | null
}

async function fated(db: Knex, file: Came, narrow: Narrow): Promise<IntakeOrder[]> {
  const rows: FatedRow[] = await narrow(
    db("intake_order as i").leftJoin("sales_order as o", (on) => {
      on.on("o.source_number", "i.order_number")
        .andOn("o.source_id", db.raw("?", [file.source_id]))
        .andOn("o.part", db.raw("1"))
    }),
  ).select(
    "i.*",
    "o.id as order_id",
    "o.order_number as here_number",
    "o.content_hash as here_hash",
    "o.cancelled_at",
    "o.source_waits",
    "o.lines_changed_at",
    db.raw("COALESCE(o.came_to_id, o.warehouse_id) AS came_to"),
  )
  const elsewhere = (row: (typeof rows)[number]) => row.order_id !== null && row.came_to !== file.warehouse_id
  const begun = await pickingBegun(
    db,
    rows.flatMap((row) => (row.order_id && !row.fate && !row.cancelled_at ? [row.order_id] : [])),
  )
  return rows.map((row) => ({
    number: row.order_number,
    customer: row.customer,
    place: row.place,
    goodRows: row.good_rows,
    refusedRows: row.refused_rows,
    trouble: row.trouble ?? "",
    fate:
      (row.fate as IntakeOrder["fate"] | null) ??
      (elsewhere(row) ? "other-warehouse" : null) ??
      fateOf(
        { number: row.order_number, good: row.good_rows, contentHash: row.content_hash, wish: row.wish },
        row.order_id
          ? {
              content_hash: row.here_hash,
              cancelled_at: row.cancelled_at,
              source_waits: row.source_waits,
              begun: begun.has(row.order_id) || row.lines_changed_at !== null,
            }
          : null,
      ),
    // whose order it is at another warehouse is not told here
    orderNumber: elsewhere(row) ? null : (row.here_number ?? null),
  }))
}

/** How many orders of an intake have which fate; of those that are still open, by looking at each once. */
async function fateCounts(db: Knex, file: Came): Promise<IntakePreview["fates"]> {
  const intakeId = file.id
  const counts: Partial<Record<IntakeOrder["fate"], number>> = {}
  const done = await db("intake_order")
    .where({ intake_id: intakeId })
    .whereNotNull("fate")
    .groupBy("fate")
    .select("fate")
    .count({ n: "*" })
  for (const row of done as { fate: Fate; n: unknown }[]) counts[row.fate] = Number(row.n)
  const chunk = 2_000
  for (let after = 0; ; ) {
    const open = await fated(db, file, (query) =>
      query
        .where({ "i.intake_id": intakeId })
        .whereNull("i.fate")
        .where("i.position", ">", after)
        .orderBy("i.position")
        .limit(chunk),
    )
    for (const one of open) counts[one.fate] = (counts[one.fate] ?? 0) + 1
    if (open.length < chunk) return counts
    const last = there(
      await db("intake_order")
        .where({ intake_id: intakeId, order_number: open.at(-1)?.number })
        .first("position"),
    )
    after = last.position
  }
}

/**
 * Puts a corrected row in place of a refused one. When the intake was imported already, its order is imported again with
 * the corrected row, and alone. What is still wrong is answered as reasons, and the row stays as it was.
 */
export async function correctRow(
  context: Context,
  intakeId: IntakeId,
  line: number,
  changed: Readonly<Record<string, string>>,
  andTake = true,
): Promise<Outcome<null>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const file = await db("intake_file").where({ id: intakeId, warehouse_id: actor.warehouseId }).first()
  if (!file) return refused(reason("intake.unknown"))
  if (file.state === "taking" || file.state === "reading") return refused(reason("intake.being-taken"))
  const row = await db("intake_row").where({ intake_id: intakeId, line, refused: true }).first()
  if (!row) return refused(reason("intake.no-such-row", { line }))
  const before = parsed<Record<string, string>>(row.raw)
  const read = await new Catalogue(db).resolve(readRow({ ...before, ...known(changed) }, line))
  if (!read.row) return refused(...read.refusals)
  if (row.order_number !== "" && read.row.order_number !== row.order_number)
    return refused(reason("intake.other-order", { number: row.order_number }))
  const number = read.row.order_number
  const others = await db("intake_row")
    .where({ intake_id: intakeId, order_number: number, refused: false })
    .select("line", "parsed")
  const [first] = others.sort((a, b) => a.line - b.line)
  const differs = first
    ? differences({ row: parsed<OrderRow>(first.parsed), line: first.line, document: undefined }, read.row, line)
    : []
  if (differs.length > 0) return refused(...differs)
  const corrected = await inTransaction(db, async (trx) => {
    // somebody else may have corrected it meanwhile
    const mine = await trx("intake_row")
      .where({ intake_id: intakeId, line, refused: true })
      .update({
        raw: JSON.stringify(read.raw),
        refusals: "[]",
        parsed: JSON.stringify(read.row),
        order_number: number,
        corrected_by: actor.name,
      })
    if (mine === 0) return false
    await trx("intake_file").where({ id: file.id }).decrement("refused_count", 1)
    await count(trx, file, number)
    if (number !== row.order_number) await count(trx, file, row.order_number)
    const changes = Object.entries(read.raw)
      .filter(([name, value]) => (before[name] ?? "") !== value)
      .map(([field, to]) => ({ field, from: before[field] ?? "", to }))
    const order = await trx("sales_order")
      .where({ source_id: file.source_id, source_number: number, part: 1 })
      .first("id")
    await record(trx, actor, context.now, {
      action: "order.row-corrected",
      orderId: order?.id ?? null,
      detail: { file: file.name, line, changes },
    })
    // an intake that was imported before takes this one order again
    if (file.taken_at) await trx("intake_file").where({ id: intakeId }).update({ taken_at: null, state: "read" })
    return true
  })
  if (!corrected) return refused(reason("intake.no-such-row", { line }))
  if (file.taken_at && andTake) await takeIn(context, intakeId)
  return accepted(null)
}

/** Only what is a field of a row, without what else a form or a file may hold. */
const known = (values: Readonly<Record<string, string>>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(values).filter(([name]) => fields.includes(name as never) || /^reference[+-]/.test(name)),
  )

/** Counts an order of an intake again after one of its rows was corrected, and opens it for taking in. */
async function count(trx: Knex, file: { id: number; source_id: number }, number: string): Promise<void> {
  const at = { intake_id: file.id, order_number: number }
  const rows = await trx("intake_row").where(at).select("refused")
  const source = sourceFromRow(there(await trx("order_source").where({ id: file.source_id }).first()))
  const draft = await draftFrom(trx, file.id, number, "ship")
  const first = draft.rows[0]
  const known = await trx("intake_order").where(at).first("position", "fate")
  // the sums of the file go with it: counted anew, each corrected row would count all of them
  await trx("intake_file")
    .where({ id: file.id })
    .update({
      order_count: trx.raw("order_count + ?", [Number(rows.length > 0) - Number(!!known)]),
      taken_count: trx.raw("taken_count - ?", [Number(!!known?.fate)]),
    })
  if (rows.length === 0) {
    await trx("intake_order").where(at).delete()
  } else {
    const most = known
      ? null
      : await trx("intake_order").where({ intake_id: file.id }).max({ most: "position" }).first()
    await trx("intake_order")
      .insert({
        ...at,
        position: known?.position ?? Number(most?.most ?? 0) + 1,
        customer: first?.customer ?? "",
        place: first ? `${first.city} ${first.state || first.country}`.trim() : "",
        good_rows: draft.rows.filter((row) => !row.bare).length,
        refused_rows: rows.filter((row) => row.refused).length,
        content_hash: draft.contentHash,
        wish: wishOf(source, first?.source_state ?? ""),
        fate: null,
      })
      .onConflict(["intake_id", "position"])
      .merge()
  }
}

/** The refused rows of an intake with the fields as they came, for correcting them elsewhere. */
export async function refusedRows(context: Context, intakeId: IntakeId): Promise<RefusedRow[]> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const rows = await db("intake_row as r")
    .join("intake_file as f", "f.id", "r.intake_id")
    .where({ "r.intake_id": intakeId, "f.warehouse_id": actor.warehouseId, "r.refused": true })
    .orderBy("r.line")
    .select("r.line", "r.raw", "r.refusals")
  return rows.map((row) => ({ line: row.line, raw: parsed(row.raw), refusals: parsed(row.refusals) }))
}

/** The last intakes of a warehouse, newest first. */
export const recentIntakes = (
  context: Context,
  sourceId: SourceId | null = null,
): Promise<
  {
    id: number
    name: string
    source: string
    uploaded_at: Date
    taken_at: Date | null
    state: IntakePreview["state"]
    order_count: number
    taken_count: number
    row_count: number
    refused_count: number
  }[]
> =>
  context
    .db("intake_file as f")
    .join("order_source as s", "s.id", "f.source_id")
    .where("f.warehouse_id", context.actor.warehouseId)
    .where((query) => void (sourceId && query.where("f.source_id", sourceId)))
    .orderBy("f.id", "desc")
    .limit(12)
    .select(
      "f.id",
      "f.name",
      "s.name as source",
      "f.uploaded_at",
      "f.taken_at",
      "f.state",
      "f.order_count",
      "f.taken_count",
      "f.row_count",
      "f.refused_count",
    )
