import { createHash } from "node:crypto"
import type { Readable } from "node:stream"
import { type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Context, require } from "../accounts/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { type OrderRow, type ReadRow, readOrdersCsv } from "../formats/ordersCsv.ts"
import { freeStock, recheck } from "./release.ts"

export interface IntakeOrder {
  readonly number: string
  readonly customer: string
  readonly place: string
  readonly goodRows: number
  readonly refusedRows: number
  /** What taking in will do, or has done. */
  readonly fate: "new" | "unchanged" | "changed" | "picking-begun" | "nothing-good"
  readonly bench: string | null
}

export interface IntakePreview {
  readonly id: number
  readonly name: string
  readonly uploadedAt: Date
  readonly takenAt: Date | null
  readonly rowCount: number
  readonly orders: readonly IntakeOrder[]
  readonly refusals: readonly Reason[]
}

/**
 * Reads an uploaded order file and keeps its rows for a preview; no order is made yet. Throws FileRefused for a file
 * that can't be read, and then keeps nothing of it. The file is read as it arrives.
 */
export async function previewFile(
  context: Context,
  sourceCode: string,
  name: string,
  bytes: Readable,
): Promise<number> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  const source = await db("order_source").where({ code: sourceCode }).first("id")
  if (!source) throw new Error(`no order source has the code ${sourceCode}`)
  const hash = createHash("sha256")
  const [intakeId] = await db("intake_file").insert({
    warehouse_id: actor.warehouseId,
    source_id: source.id,
    name: name.slice(0, 200),
    sha256: "",
    uploaded_at: now,
    user_id: actor.userId,
  })
  const id = intakeId as number
  try {
    let batch: object[] = []
    let count = 0
    const skus = new Map<string, Set<string> | null>()
    const flush = async () => {
      if (batch.length > 0) await db("intake_row").insert(batch)
      batch = []
    }
    for await (const read of readOrdersCsv(bytes, (chunk) => hash.update(chunk))) {
      const row = await withKnownItem(db, skus, read)
      batch.push({
        intake_id: id,
        line: row.line,
        order_number: (row.raw.order_number ?? "").trim().slice(0, 40),
        raw: JSON.stringify(row.raw),
        refusals: JSON.stringify(row.refusals),
        parsed: row.row ? JSON.stringify(row.row) : null,
      })
      count += 1
      if (batch.length >= 200) await flush()
    }
    await flush()
    await db("intake_file")
      .where({ id })
      .update({ row_count: count, sha256: hash.digest("hex") })
    return id
  } catch (error) {
    await db("intake_row").where({ intake_id: id }).delete()
    await db("intake_file").where({ id }).delete()
    throw error
  }
}

/** Refuses a row whose item or unit is not in the catalogue. */
async function withKnownItem(db: Knex, known: Map<string, Set<string> | null>, read: ReadRow): Promise<ReadRow> {
  if (!read.row) return read
  const { sku, unit } = read.row
  if (!known.has(sku)) {
    const levels = await db("item")
      .join("item_level", "item_level.item_id", "item.id")
      .where({ sku })
      .select("item_level.name")
    known.set(sku, levels.length > 0 ? new Set(levels.map((level) => level.name)) : null)
  }
  const units = known.get(sku)
  const refuse = (field: string, code: string, value: string) => ({
    ...read,
    row: null,
    refusals: [reason(`row.${code}`, { line: read.line, field, value, units: units ? [...units].join(", ") : "" })],
  })
  if (!units) return refuse("sku", "no-such-item", sku)
  if (!units.has(unit)) return refuse("unit", "no-such-unit", unit)
  return read
}

interface Draft {
  readonly number: string
  readonly rows: readonly OrderRow[]
  readonly refusals: readonly Reason[]
  readonly contentHash: string
}

/** The orders of an intake file: rows with one order number are one order, in the order of the file. */
async function drafts(db: Knex, intakeId: number): Promise<Draft[]> {
  const rows = await db("intake_row")
    .where({ intake_id: intakeId })
    .orderBy("line")
    .select("order_number", "refusals", "parsed")
  const byNumber = new Map<string, { rows: OrderRow[]; refusals: Reason[] }>()
  for (const row of rows) {
    const draft = byNumber.get(row.order_number) ?? { rows: [], refusals: [] }
    byNumber.set(row.order_number, draft)
    if (row.parsed) draft.rows.push(parsed<OrderRow>(row.parsed))
    draft.refusals.push(...parsed<Reason[]>(row.refusals))
  }
  return [...byNumber].map(([number, draft]) => {
    // the line of a refusal is where it stood in this file, not part of what the order says
    const content = JSON.stringify([
      draft.rows,
      draft.refusals.map((one) => [one.code, one.values.field, one.values.value]),
    ])
    return { number, ...draft, contentHash: createHash("sha256").update(content).digest("hex") }
  })
}

/** What an upload holds and what taking it in would do, order by order. Null when there is no such upload here. */
export async function intakePreview(context: Context, intakeId: number): Promise<IntakePreview | null> {
  const { db, actor } = context
  const file = await db("intake_file").where({ id: intakeId, warehouse_id: actor.warehouseId }).first()
  if (!file) return null
  const all = await drafts(db, intakeId)
  const done = file.taken ? new Map(parsed<[string, IntakeOrder["fate"]][]>(file.taken)) : null
  const known = await db("sales_order")
    .where({ source_id: file.source_id })
    .whereIn(
      "source_number",
      all.map((draft) => draft.number),
    )
    .select("id", "source_number", "content_hash", "bench_number")
  const begun = await pickingBegun(
    db,
    known.map((order) => order.id),
  )
  const orders = all.map((draft): IntakeOrder => {
    const order = known.find((one) => one.source_number === draft.number)
    const first = draft.rows[0]
    return {
      number: draft.number,
      customer: first?.customer ?? "",
      place: first ? `${first.city} ${first.state || first.country}` : "",
      goodRows: draft.rows.length,
      refusedRows: draft.refusals.length,
      fate: done?.get(draft.number) ?? fateOf(draft, order, order ? begun.has(order.id) : false),
      bench: order?.bench_number ?? null,
    }
  })
  return {
    id: file.id,
    name: file.name,
    uploadedAt: file.uploaded_at,
    takenAt: file.taken_at,
    rowCount: file.row_count,
    orders,
    refusals: all.flatMap((draft) => draft.refusals).sort((a, b) => Number(a.values.line) - Number(b.values.line)),
  }
}

function fateOf(draft: Draft, order: { content_hash: string } | undefined, begun: boolean): IntakeOrder["fate"] {
  if (draft.rows.length === 0 || !draft.number) return "nothing-good"
  if (!order) return "new"
  if (order.content_hash === draft.contentHash) return "unchanged"
  return begun ? "picking-begun" : "changed"
}

async function pickingBegun(db: Knex, orderIds: readonly number[]): Promise<Set<number>> {
  const rows = await db("order_line")
    .join("allocation", "allocation.order_line_id", "order_line.id")
    .whereIn("order_id", [...orderIds])
    .where("picked", ">", 0)
    .distinct("order_id")
  const shipped = await db("shipment")
    .whereIn("order_id", [...orderIds])
    .distinct("order_id")
  return new Set([...rows, ...shipped].map((row) => row.order_id))
}

/**
 * Makes orders of an upload, each in a transaction of its own: new ones are added, changed ones are updated until
 * picking begins, unchanged ones are left alone. Safe to repeat, also by two people at once: source and number are one.
 */
export async function takeIn(context: Context, intakeId: number): Promise<void> {
  const { db, actor, now } = context
  require(actor, "orders.work")
  const file = await db("intake_file").where({ id: intakeId, warehouse_id: actor.warehouseId }).first()
  if (!file || file.taken_at) return
  const fates: [string, IntakeOrder["fate"]][] = []
  for (const draft of await drafts(db, intakeId)) {
    fates.push([draft.number, await inTransaction(db, (trx) => takeOrder(trx, context, file, draft))])
  }
  await db("intake_file")
    .where({ id: intakeId })
    .whereNull("taken_at")
    .update({ taken_at: now, taken: JSON.stringify(fates) })
}

async function takeOrder(
  trx: Knex,
  { actor, now }: Context,
  file: { id: number; source_id: number; warehouse_id: number; name: string },
  draft: Draft,
): Promise<IntakeOrder["fate"]> {
  // the warehouse row serialises intake, so that a number is looked up and made by one at a time
  const warehouse = await trx("warehouse").where({ id: file.warehouse_id }).forUpdate().first("bench_serial")
  const order = await trx("sales_order")
    .where({ source_id: file.source_id, source_number: draft.number })
    .forUpdate()
    .first()
  const fate = fateOf(draft, order, order ? (await pickingBegun(trx, [order.id])).has(order.id) : false)
  if (fate !== "new" && fate !== "changed") return fate
  const head = draft.rows[0] as OrderRow
  const customer = await trx("customer")
    .where({ name: head.customer })
    .orWhere({ code: head.customer })
    .first("id", "name")
  const fields = {
    customer_id: customer?.id ?? null,
    customer_name: customer?.name ?? head.customer,
    po_number: head.po_number,
    ordered_on: head.ordered_on,
    promised_on: head.promised_on || null,
    company: head.company || head.customer,
    attention: head.attention,
    street: head.street,
    street2: head.street2,
    city: head.city,
    state: head.state,
    postal_code: head.postal_code,
    country: head.country,
    phone: head.phone,
    address_kind: head.address_kind || "unknown",
    notes: head.notes,
    content_hash: draft.contentHash,
    refused_rows: JSON.stringify(draft.refusals),
  }
  let orderId: number
  if (order) {
    orderId = order.id
    await freeStock(trx, orderId)
    await trx("order_line").where({ order_id: orderId }).delete()
    await trx("sales_order")
      .where({ id: orderId })
      .update({ ...fields, version: order.version + 1 })
  } else {
    const bench = Number(warehouse.bench_serial) + 1
    await trx("warehouse").where({ id: file.warehouse_id }).update({ bench_serial: bench })
    const [id] = await trx("sales_order").insert({
      ...fields,
      warehouse_id: file.warehouse_id,
      source_id: file.source_id,
      source_number: draft.number,
      bench_number: String(bench).padStart(5, "0"),
      received_at: now,
    })
    orderId = id as number
  }
  for (const [index, row] of draft.rows.entries()) {
    const level = await trx("item")
      .join("item_level", "item_level.item_id", "item.id")
      .where({ sku: row.sku, "item_level.name": row.unit })
      .first("item.id", "item_level.quantity")
    await trx("order_line").insert({
      order_id: orderId,
      line_number: index + 1,
      item_id: level.id,
      ordered: row.quantity * level.quantity,
      unit: row.unit,
      unit_price: row.unit_price || null,
    })
  }
  await record(trx, actor, now, {
    action: order ? "order.updated" : "order.received",
    orderId,
    detail: { file: file.name, source: draft.number },
  })
  await recheck(trx, orderId, actor, now)
  return fate
}

/** The last uploads of a warehouse, newest first. */
export const recentUploads = (
  context: Context,
): Promise<{ id: number; name: string; uploaded_at: Date; taken_at: Date | null; row_count: number }[]> =>
  context
    .db("intake_file")
    .where({ warehouse_id: context.actor.warehouseId })
    .orderBy("id", "desc")
    .limit(8)
    .select("id", "name", "uploaded_at", "taken_at", "row_count")
