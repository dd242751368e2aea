import { createHash } from "node:crypto"
import { PassThrough, type Readable } from "node:stream"
import { identifier } from "core/identifier/index.ts"
import { reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { databaseFault } from "../db/faults.ts"
import type { NewIntakeRowRow } from "../db/tables.ts"
import { newId } from "../db/there.ts"
import { FileRefused, type OrderRow, type ReadRow, refusedRow } from "../formats/orderRow.ts"
import { readOrdersCsv } from "../formats/ordersCsv.ts"
import { readOrdersEdifact } from "../formats/ordersEdifact.ts"
import { readOrdersJson } from "../formats/ordersJsonFile.ts"
import { Catalogue } from "./catalogue.ts"
import { ContentHash } from "./draft.ts"
import { asOfOrder, type First } from "./oneOrder.ts"
import { type Source, sourceFromRow, wishOf } from "./source.ts"

/** The formats of order files. */
export type IntakeFormat = "csv" | "edifact" | "json"

/** A source by its code. Throws FileRefused when there is none, or when nothing more is taken from it. */
export async function openSource(db: Knex, code: string): Promise<Source> {
  const row = await db("order_source").where({ code }).first()
  if (!row) throw new FileRefused(reason("source.unknown", { code }))
  if (!row.active) throw new FileRefused(reason("source.not-active", { name: row.name }))
  return sourceFromRow(row)
}

/**
 * Reads an order file of a source and keeps its rows for a preview; no order is made yet. Throws FileRefused for a
 * file that can't be read, and then keeps nothing of it. The file is read as it arrives.
 */
export async function previewFile(
  context: Context,
  sourceCode: string,
  name: string,
  bytes: Readable,
): Promise<number> {
  authorise(context.actor, "orders.work")
  const source = await openSource(context.db, sourceCode)
  const { format, stream } = await sniffed(bytes)
  const hash = createHash("sha256")
  const seen = (chunk: Buffer) => void hash.update(chunk)
  const rows =
    format === "csv"
      ? readOrdersCsv(stream, seen, source.mapping)
      : format === "json"
        ? readOrdersJson(stream, seen)
        : readOrdersEdifact(stream, seen)
  return keepRows(context, { source, name, format, hash: () => hash.digest("hex") }, rows)
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
  // of UTF-16 every other byte is zero
  const head = first
    .toString("latin1")
    .replace(/^\xef\xbb\xbf|^\xff\xfe|^\xfe\xff/, "")
    .replaceAll("\0", "")
    .trimStart()
  return { format: /^UN[AB]/.test(head) ? "edifact" : /^[[{]/.test(head) ? "json" : "csv", stream }
}

/** Rows that are read in one go. */
const breath = 20

/** What is known of an order while its rows are still being read. */
interface Seen {
  readonly position: number
  first: First | null
  readonly content: ContentHash
  customer: string
  place: string
  state: string
  good: number
  refused: number
}

/** Keeps rows of any origin as an intake, with what the catalog says to them; on an error nothing is kept. */
export async function keepRows(
  { db, actor, now }: Context,
  from: {
    readonly source: Source
    readonly name: string
    readonly format: IntakeFormat
    readonly hash: () => string
  },
  rows: AsyncIterable<ReadRow> | Iterable<ReadRow>,
): Promise<number> {
  const intakeId = newId(
    await db("intake_file").insert({
      warehouse_id: actor.warehouseId,
      source_id: from.source.id,
      name: from.name.slice(0, 200),
      format: from.format,
      sha256: "",
      state: "reading",
      uploaded_at: now,
      user_id: actor.userId,
    }),
  )
  const id = intakeId
  try {
    let batch: NewIntakeRowRow[] = []
    let count = 0
    let refused = 0
    const orders = new Map<string, Seen>()
    const catalogue = new Catalogue(db)
    const flush = async () => {
      if (batch.length > 0) await db("intake_row").insert(batch)
      batch = []
      await db("intake_file").where({ id }).update({ row_count: count })
    }
    for await (const read of rows) {
      const known = await resolved(catalogue, read)
      const number = known.row?.order_number ?? identifier(known.raw.order_number ?? "").slice(0, 40)
      const row = asOfOrder(orders.get(number)?.first ?? null, known)
      batch.push({
        intake_id: id,
        line: row.line,
        order_number: number,
        raw: JSON.stringify(row.raw),
        refusals: JSON.stringify(row.refusals),
        parsed: row.row ? JSON.stringify(row.row) : null,
      })
      count += 1
      // a page that somebody asks for meanwhile comes in between
      if (count % breath === 0) await new Promise((resolve) => setImmediate(resolve))
      if (!row.row) refused += 1
      note(orders, number, row)
      if (batch.length >= 200) await flush()
    }
    await flush()
    const entries = [...orders].map(([number, seen]) => ({
      intake_id: id,
      position: seen.position,
      order_number: number,
      customer: seen.customer.slice(0, 60),
      place: seen.place.slice(0, 60),
      good_rows: seen.good,
      refused_rows: seen.refused,
      content_hash: seen.content.digest(),
      wish: wishOf(from.source, seen.state),
    }))
    for (let at = 0; at < entries.length; at += 500) await db("intake_order").insert(entries.slice(at, at + 500))
    await db("intake_file").where({ id }).update({
      row_count: count,
      refused_count: refused,
      order_count: entries.length,
      state: "read",
      sha256: from.hash(),
    })
    return id
  } catch (error) {
    await dropIntake(db, id)
    throw error
  }
}

/** A row with its item; one that breaks the look-up is refused like any that is wrong, and the others go on. */
async function resolved(catalogue: Catalogue, read: ReadRow): Promise<ReadRow> {
  try {
    return await catalogue.resolve(read)
  } catch (error) {
    if (databaseFault(error) === "away") throw error
    return refusedRow(read.raw, read.line, "sku", "unreadable")
  }
}

function note(orders: Map<string, Seen>, number: string, read: ReadRow): void {
  const seen = orders.get(number) ?? {
    position: orders.size + 1,
    first: null,
    content: new ContentHash(),
    customer: "",
    place: "",
    state: "",
    good: 0,
    refused: 0,
  }
  orders.set(number, seen)
  if (read.row) {
    if (seen.good === 0) Object.assign(seen, headOf(read.row))
    seen.first ??= { row: read.row, line: read.line, document: read.document }
    if (!read.row.bare) seen.good += 1
    seen.content.row(read.row)
  } else seen.refused += 1
  seen.content.refuse(read.refusals)
}

const headOf = (row: OrderRow) => ({
  customer: row.customer,
  place: `${row.city} ${row.state || row.country}`.trim(),
  state: row.source_state,
})

/** Forgets an intake of which nothing was imported. */
export async function dropIntake(db: Knex, id: number): Promise<void> {
  await db("intake_row").where({ intake_id: id }).delete()
  await db("intake_order").where({ intake_id: id }).delete()
  await db("intake_file").where({ id }).delete()
}
