import { createHash, randomUUID } from "node:crypto"
import type { CollectionId, DocumentId, IntentId, OrderId, OwnPaperId, ReturnId, WarehouseId } from "core/ids/index.ts"
import { preferred } from "core/preferences/index.ts"
import { accepted, coded, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { MessageKey } from "words/catalogue.ts"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { preferencesAt } from "../setup/preferences.ts"
import { drainSoon, type KeptLabel } from "./drain.ts"
import { firstPress } from "./once.ts"
import { isLabel, type PrintFor, printerFor } from "./printers.ts"

/** Kinds of papers: each has words of its own, `papers.kind.` in `words`. */
export type DocumentKind = MessageKey extends infer Key
  ? Key extends `papers.kind.${infer Kind}`
    ? Kind
    : never
  : never

export interface NewDocument {
  readonly warehouseId: WarehouseId
  readonly kind: DocumentKind
  readonly name: string
  /** Empty where it is an own paper, whose bytes are kept once. */
  readonly bytes: Buffer
  readonly ownPaperId?: OwnPaperId
  /** The booking of a way back that it was made for. */
  readonly returnId?: ReturnId
  readonly madeAt: Date
  readonly orderId?: OrderId
  /** The purchase that it was made for, so that it becomes void with it. */
  readonly intentId?: IntentId
  readonly collectionId?: CollectionId
  /** The language that it is written in; English where it is not said. */
  readonly language?: string
  /** What its bytes are; a PDF where it is not said. Only a PDF is ever printed. */
  readonly media?: "application/pdf" | "application/xml" | "application/edifact"
  /** How many of it are printed; one where it is not said. */
  readonly copies?: number
  /** Its data went to the carrier: printed only when somebody asks. */
  readonly electronic?: boolean
  /** What is on it, where it is drawn in the form of the printer that it goes to. */
  readonly model?: KeptLabel
}

/** Keeps a document's bytes with their hash; returns its id. */
export async function keepDocument(trx: Knex, document: NewDocument): Promise<number> {
  const id = newId(
    await trx("document").insert({
      warehouse_id: document.warehouseId,
      kind: document.kind,
      name: document.name,
      media: document.media ?? "application/pdf",
      sha256: createHash("sha256").update(document.bytes).digest("hex"),
      bytes: document.bytes,
      made_at: document.madeAt,
      order_id: document.orderId ?? null,
      intent_id: document.intentId ?? null,
      collection_id: document.collectionId ?? null,
      own_paper_id: document.ownPaperId ?? null,
      return_intent_id: document.returnId ?? null,
      language: document.language ?? "en",
      electronic: document.electronic ?? false,
      copies: document.copies ?? 1,
      model: document.model ? JSON.stringify(document.model) : null,
    }),
  )
  return id
}

/** Asks for a document to be printed, where its kind is printed for whom it is; the print job's name is its IPP job's. */
export async function printDocument(
  trx: Knex,
  warehouseId: WarehouseId,
  documentId: DocumentId,
  kind: DocumentKind,
  copies: number,
  whose: PrintFor,
): Promise<void> {
  const printer = await printerFor(trx, warehouseId, kind, whose)
  if (!printer) throw new Error(coded(noPrinter(kind)))
  await trx("print_job").insert({
    document_id: documentId,
    printer_id: printer.id,
    name: randomUUID(),
    form: isLabel(kind)
      ? (preferred(await preferencesAt(trx, { warehouseId, ...whose }), "labelForm")?.value ?? "")
      : "",
    copies,
    created_at: new Date(),
  })
  await drainSoon(trx, printer.id)
}

export const noPrinter = (kind: DocumentKind) => reason("paper.no-printer", { kind })

/** For whom a context prints. */
export const whose = ({ actor, benchId }: Pick<Context, "actor" | "benchId">): PrintFor => ({
  userId: actor.userId,
  benchId: benchId ?? null,
})

/**
 * Keeps a paper that was made on demand and prints it on the warehouse's printer for its kind; refused where it has none.
 * A key of the client's counts once: asked again, nothing is printed again.
 */
export async function printNow(
  context: Context,
  paper: Pick<NewDocument, "kind" | "name" | "bytes"> & { readonly orderId: OrderId | null },
  key: string,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const { kind, name, bytes, orderId } = paper
    if (!(await printerFor(trx, actor.warehouseId, kind, whose(context)))) return refused(noPrinter(kind))
    if (!(await firstPress(trx, context, key, name))) return accepted(null)
    const document = { warehouseId: actor.warehouseId, kind, name, bytes, madeAt: now, orderId: orderId ?? undefined }
    const id = await keepDocument(trx, document)
    await printDocument(trx, actor.warehouseId, id, kind, 1, whose(context))
    await record(trx, actor, now, { action: "paper.printed", orderId, detail: { name } })
    return accepted(null)
  })
}

/** Prints a kept document once more, once for a key; false for one that is not here or is void. */
export async function reprint(context: Context, documentId: DocumentId, key: string): Promise<boolean> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  return inTransaction(db, async (trx) => {
    const document = await trx("document")
      .where({ id: documentId, warehouse_id: actor.warehouseId })
      .where("media", "application/pdf")
      .whereNull("void_at")
      .first("id", "kind", "name", "order_id", "collection_id")
    if (!document) return false
    if (!(await firstPress(trx, context, key, document.name))) return true
    await printDocument(trx, actor.warehouseId, document.id, document.kind as DocumentKind, 1, whose(context))
    await record(trx, actor, now, {
      action: "paper.reprinted",
      orderId: document.order_id,
      collectionId: document.collection_id,
      detail: { name: document.name },
    })
    return true
  })
}

export interface PaperRow {
  readonly id: number
  readonly kind: DocumentKind
  readonly name: string
  readonly madeAt: Date
  readonly orderNumber: string | null
  readonly printed: number
  readonly waiting: number
  readonly trouble: string | null
  readonly void: boolean
}

/** The newest papers of a warehouse with where their printing stands. */
export async function recentPapers(context: Context, limit = 60): Promise<PaperRow[]> {
  const { db, actor } = context
  const rows = await db("document as d")
    .leftJoin("sales_order as o", "o.id", "d.order_id")
    .leftJoin("print_job as p", "p.document_id", "d.id")
    .where({ "d.warehouse_id": actor.warehouseId, "d.media": "application/pdf" })
    .groupBy("d.id", "d.kind", "d.name", "d.made_at", "d.void_at", "o.order_number")
    .orderBy("d.id", "desc")
    .limit(limit)
    .select(
      "d.id",
      "d.kind",
      "d.name",
      "d.made_at",
      "d.void_at",
      "o.order_number",
      db.raw("SUM(p.state = 'printed') AS printed"),
      db.raw("SUM(p.state IN ('waiting', 'sent')) AS waiting"),
      db.raw("MAX(p.trouble) AS trouble"),
    )
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind,
    name: row.name,
    madeAt: row.made_at,
    orderNumber: row.order_number,
    printed: Number(row.printed ?? 0),
    waiting: Number(row.waiting ?? 0),
    trouble: Number(row.waiting ?? 0) > 0 ? row.trouble : null,
    void: row.void_at !== null,
  }))
}

export async function documentBytes(
  { db, actor }: Context,
  id: number,
): Promise<{ name: string; media: string; bytes: Buffer } | undefined> {
  authorise(actor, "packing.see")
  return withOwnBytes(db)
    .where({ "d.id": id, "d.warehouse_id": actor.warehouseId })
    .first("d.name", "d.media", bytesColumn(db))
}

/** Documents with what holds their bytes: themselves, or the own paper that they are. */
export const withOwnBytes = (db: Knex) => db("document as d").leftJoin("own_paper as w", "w.id", "d.own_paper_id")
export const bytesColumn = (db: Knex) => db.raw("COALESCE(w.bytes, d.bytes) AS bytes")

/** The bytes of several documents of the warehouse, in the order of their ids as given; one that is not here is left out. */
export async function bytesOf({ db, actor }: Context, ids: readonly number[]): Promise<Buffer[]> {
  authorise(actor, "packing.see")
  const rows = await withOwnBytes(db)
    .whereIn("d.id", [...ids])
    .where({ "d.warehouse_id": actor.warehouseId })
    .select("d.id", bytesColumn(db))
  const found = new Map(rows.map((row) => [row.id as number, row.bytes]))
  return ids.flatMap((id) => found.get(id) ?? [])
}

/** Printers of the warehouse and where their trays can be looked at. */
export const printers = (context: Context): Promise<{ name: string; tray_url: string | null; media: string }[]> =>
  context
    .db("printer")
    .where({ warehouse_id: context.actor.warehouseId })
    .orderBy("id")
    .select("name", "tray_url", "media")

/** How many labels of an order are printed, and what keeps others from it. */
export async function labelsPrinted(db: Knex, orderId: OrderId): Promise<{ printed: number; trouble: string | null }> {
  const jobs = () =>
    db("print_job").join("document", "document.id", "print_job.document_id").where("document.order_id", orderId)
  const printed = await jobs()
    .where("document.kind", "label")
    .where("print_job.state", "printed")
    .whereNull("document.void_at")
    .countDistinct({ n: "document.id" })
    .first()
  const waiting = await jobs().whereIn("print_job.state", ["waiting", "sent"]).whereNotNull("trouble").first("trouble")
  return { printed: Number(printed?.n ?? 0), trouble: waiting?.trouble ?? null }
}
