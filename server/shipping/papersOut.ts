import type { DocumentId, OrderId } from "core/ids/index.ts"
import { paperKinds } from "core/papers/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import { inTransaction } from "../db/connection.ts"
import { bytesOf, type DocumentKind, printDocument, whose } from "../documents/index.ts"
import { firstPress } from "../documents/once.ts"
import { postMail } from "../mail/index.ts"
import { leadOf } from "../orders/joined.ts"

/** A label or paper of an order that is in force, with how often it came out of a printer. */
export interface OwnPaper {
  readonly id: number
  readonly kind: DocumentKind
  readonly name: string
  readonly printed: number
  readonly waiting: number
  /** Its data went to the carrier; it is printed when somebody asks. */
  readonly electronic: boolean
}

/** All papers of an order that are kept and in force, labels first. */
export async function papersInForce(db: Knex, orderId: OrderId): Promise<OwnPaper[]> {
  const rows = await db("document as d")
    .leftJoin("print_job as p", "p.document_id", "d.id")
    .where({ "d.order_id": orderId })
    .whereIn("d.kind", ["label", "return-label", "counter-code", "own-paper", ...paperKinds])
    .whereNull("d.void_at")
    .groupBy("d.id", "d.kind", "d.name", "d.electronic")
    .orderByRaw("d.kind <> 'label', d.kind, d.id")
    .select(
      "d.id",
      "d.kind",
      "d.name",
      "d.electronic",
      db.raw("SUM(p.state = 'printed') AS printed"),
      db.raw("SUM(p.state IN ('waiting', 'sent')) AS waiting"),
    )
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind as DocumentKind,
    name: row.name,
    electronic: !!row.electronic,
    printed: Number(row.printed ?? 0),
    waiting: Number(row.waiting ?? 0),
  }))
}

/** What was bought as data for other programs: the invoice as Cross Industry Invoice, the instruction to a freight carrier. */
export const dataOf = async (db: Knex, orderId: OrderId): Promise<{ id: number; kind: DocumentKind; name: string }[]> =>
  (
    await db("document")
      .where({ order_id: orderId })
      .whereIn("kind", ["invoice-data", "instruction-data"])
      .whereNull("void_at")
      .orderBy("id")
      .select("id", "kind", "name")
  ).map((row) => ({ id: row.id, kind: row.kind as DocumentKind, name: row.name }))

/** Papers that are printed or sent at once, at most. */
const mostAtOnce = 200

/** Prints papers of an order again, or for the first time where they were bought without; counted, and on its story. */
export async function printPapers(
  context: Context,
  orderId: OrderId,
  documentIds: readonly DocumentId[],
  key: string,
): Promise<Outcome<{ readonly n: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if (documentIds.length > mostAtOnce) return refused(reason("papers.too-many", { most: mostAtOnce }))
  const lead = await leadOf(db, orderId)
  return inTransaction(db, async (trx) => {
    const rows = await ownPapers(trx, context, lead, documentIds)
    if (rows.length === 0) return refused(reason("papers.choose"))
    if (!(await firstPress(trx, context, key, "papers"))) return accepted({ n: rows.length })
    for (const row of rows) {
      const before = await trx("print_job").where({ document_id: row.id }).whereNot({ state: "cancelled" }).first("id")
      await printDocument(trx, actor.warehouseId, row.id, row.kind as DocumentKind, 1, whose(context))
      await record(trx, actor, now, {
        action: before ? "paper.reprinted" : "paper.printed",
        orderId: lead,
        detail: { name: row.name },
      })
    }
    return accepted({ n: rows.length })
  })
}

const ownPapers = (trx: Knex, { actor }: Context, orderId: OrderId, ids: readonly DocumentId[]) =>
  trx("document")
    .whereIn("id", [...ids])
    .where({ order_id: orderId, warehouse_id: actor.warehouseId })
    .whereNull("void_at")
    .orderBy("id")
    .select("id", "kind", "name")

/**
 * Sends papers of an order by e-mail as one PDF, such as to a dealer who hands the goods over himself. The same key again
 * sends nothing more.
 */
export async function mailPapers(
  context: Context,
  orderId: OrderId,
  documentIds: readonly DocumentId[],
  mail: { readonly to: string; readonly subject: string; readonly body: string },
  key: string,
): Promise<Outcome<{ readonly n: number }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  if (documentIds.length > mostAtOnce) return refused(reason("papers.too-many", { most: mostAtOnce }))
  if (!z.email().max(120).safeParse(mail.to).success) return refused(reason("papers.no-address", { field: "to" }))
  const lead = await leadOf(db, orderId)
  const rows = await ownPapers(db, context, lead, documentIds)
  if (rows.length === 0) return refused(reason("papers.choose"))
  const files = await bytesOf(
    context,
    rows.map((row) => row.id),
  )
  const [only] = files
  const bytes =
    files.length === 1 && only ? only : Buffer.from(await compute("mergePdfs", { title: mail.subject, files }))
  await inTransaction(db, async (trx) => {
    const posted = await postMail(trx, {
      onceKey: `papers ${orderId} ${key}`.slice(0, 100),
      warehouseId: actor.warehouseId,
      to: mail.to,
      subject: mail.subject.slice(0, 150),
      body: mail.body,
      attachment: { name: `${rows[0]?.name ?? "labels"}.pdf`, bytes },
      quoteId: null,
      by: actor.name,
      at: now,
    })
    if (posted)
      await record(trx, actor, now, {
        action: "paper.mailed",
        orderId: lead,
        detail: { name: rows.map((row) => row.name).join(", "), to: mail.to },
      })
  })
  return accepted({ n: rows.length })
}
