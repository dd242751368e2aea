import { createHash } from "node:crypto"
import { PassThrough, type Readable } from "node:stream"
import { accepted, type Outcome, type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Context, require } from "../accounts/index.ts"
import { parsed, record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { FileRefused, limits, type OrderRow, type ReadRow, utf8Only } from "../formats/orderRow.ts"
import { readOrdersCsv } from "../formats/ordersCsv.ts"
import { readOrdersEdifact } from "../formats/ordersEdifact.ts"
import { nestedAtMost, rowsOfAnything } from "../formats/ordersJson.ts"
import { Catalogue } from "./catalogue.ts"
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

/** The formats of order files, and how a file's first bytes or name tell them. */
export type IntakeFormat = "csv" | "edifact" | "json"

const readers: Readonly<
  Record<IntakeFormat, (source: Readable, seen: (chunk: Buffer) => void) => AsyncIterable<ReadRow>>
> = {
  csv: readOrdersCsv,
  edifact: readOrdersEdifact,
  json: readOrdersJson,
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
  const { db, actor } = context
  require(actor, "orders.work")
  const source = await db("order_source").where({ code: sourceCode }).first("id")
  if (!source) throw new Error(`no order source has the code ${sourceCode}`)
  const { format, stream } = await sniffed(bytes)
  const hash = createHash("sha256")
  const rows = readers[format](stream, (chunk) => hash.update(chunk))
  return keepRows(context, { sourceId: source.id, name, format, hash: () => hash.digest("hex") }, rows)
}

/** The format of a file by its first signs, and the file again from its beginning. */
async function sniffed(bytes: Readable): Promise<{ format: IntakeFormat; stream: Readable }> {
  const stream = new PassThrough()
  const first = await new Promise<Buffer>((resolve, reject) => {
    let head: Buffer = Buffer.alloc(0)
    const settle = () => {
      bytes.off("data", onData)
      bytes.pause()
      resolve(head)
    }
    const onData = (chunk: Buffer) => {
      head = Buffer.concat([head, chunk])
      if (head.length >= 16) settle()
    }
    bytes.on("data", onData)
    bytes.once("end", () => resolve(head))
    bytes.once("error", reject)
  })
  stream.write(first)
  if (bytes.readableEnded) stream.end()
  else {
    bytes.on("error", (error) => stream.destroy(error))
    bytes.pipe(stream)
  }
  const head = first
    .toString("latin1")
    .replace(/^\xef\xbb\xbf/, "")
    .trimStart()
  return { format: /^UN[AB]/.test(head) ? "edifact" : /^[[{]/.test(head) ? "json" : "csv", stream }
}

/** Orders as JSON: one, a list, or `{ "orders": […] }`; at most 2 MB and 20 brackets deep, since it is held whole. */
async function* readOrdersJson(source: Readable, seen: (chunk: Buffer) => void): AsyncGenerator<ReadRow> {
  const parts: Buffer[] = []
  let bytes = 0
  for await (const chunk of source.pipe(utf8Only(seen))) {
    bytes += (chunk as Buffer).length
    if (bytes > limits.jsonBytes)
      throw new FileRefused(reason("file.too-large", { limit: limits.jsonBytes / 1024 / 1024 }))
    parts.push(chunk as Buffer)
  }
  const text = Buffer.concat(parts)
    .toString("utf8")
    .replace(/^\ufeff/, "")
  if (!nestedAtMost(text, limits.depth)) throw new FileRefused(reason("file.too-deep", { limit: limits.depth }))
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw new FileRefused(reason("file.not-json", { detail: (error as Error).message.slice(0, 80) }))
  }
  const orders = Array.isArray(value) ? value : ((value as { orders?: unknown[] } | null)?.orders ?? [value])
  if (!Array.isArray(orders) || orders.length === 0) throw new FileRefused(reason("file.empty"))
  let line = 1
  for (const order of orders) {
    const rows = rowsOfAnything(order, line)
    line += rows.length
    yield* rows
  }
}

/** Keeps rows of any origin as an intake, with what the catalogue says to them; on an error nothing is kept. */
export async function keepRows(
  { db, actor, now }: Context,
  from: {
    readonly sourceId: number
    readonly name: string
    readonly format: IntakeFormat
    readonly hash: () => string
  },
  rows: AsyncIterable<ReadRow> | Iterable<ReadRow>,
): Promise<number> {
  const [intakeId] = await db("intake_file").insert({
    warehouse_id: actor.warehouseId,
    source_id: from.sourceId,
    name: from.name.slice(0, 200),
    format: from.format,
    sha256: "",
    uploaded_at: now,
    user_id: actor.userId,
  })
  const id = intakeId as number
  try {
    let batch: object[] = []
    let count = 0
    const catalogue = new Catalogue(db)
    const flush = async () => {
      if (batch.length > 0) await db("intake_row").insert(batch)
      batch = []
    }
    for await (const read of rows) {
      const row = await catalogue.resolve(read)
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
    await db("intake_file").where({ id }).update({ row_count: count, sha256: from.hash() })
    return id
  } catch (error) {
    await db("intake_row").where({ intake_id: id }).delete()
    await db("intake_file").where({ id }).delete()
    throw error
  }
}

/** An order of the API's: taken in at once, or refused whole with every reason; nothing is kept of a refused one. */
export async function takeDocument(
  context: Context,
  source: { readonly id: number; readonly name: string },
  rows: readonly ReadRow[],
): Promise<Outcome<{ bench: string; fate: IntakeOrder["fate"] }>> {
  const { db, actor } = context
  require(actor, "orders.work")
  const catalogue = new Catalogue(db)
  const resolved: ReadRow[] = []
  for (const row of rows) resolved.push(await catalogue.resolve(row))
  const refusals = resolved.flatMap((row) => row.refusals)
  if (refusals.length > 0) return { ok: false, reasons: refusals }
  const good = resolved.flatMap((row) => row.row ?? [])
  const number = (good[0] as OrderRow).order_number
  const draft: Draft = { number, rows: good, refusals: [], contentHash: hashOf(good, []) }
  const file = { id: 0, source_id: source.id, warehouse_id: actor.warehouseId, name: source.name }
  const fate = await inTransaction(db, (trx) => takeOrder(trx, context, file, draft))
  const order = await db("sales_order").where({ source_id: source.id, source_number: number }).first("bench_number")
  return accepted({ bench: order.bench_number, fate })
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
  return [...byNumber].map(([number, draft]) => ({
    number,
    ...draft,
    contentHash: hashOf(draft.rows, draft.refusals),
  }))
}

/** Tells an order from a changed one. Fields that came later count only where they say something. */
function hashOf(rows: readonly OrderRow[], refusals: readonly Reason[]): string {
  const said = rows.map(({ incoterm, incoterm_place, currency, gtin: _, ...row }) => ({
    ...row,
    ...(incoterm || incoterm_place || currency !== "USD" ? { incoterm, incoterm_place, currency } : {}),
  }))
  // the line of a refusal is where it stood in this file, not part of what the order says
  const content = JSON.stringify([said, refusals.map((one) => [one.code, one.values.field, one.values.value])])
  return createHash("sha256").update(content).digest("hex")
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
    incoterm: head.incoterm ?? "",
    incoterm_place: head.incoterm_place ?? "",
    currency: head.currency ?? "USD",
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
