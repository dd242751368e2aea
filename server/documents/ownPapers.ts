import { createHash } from "node:crypto"
import { ownPaperLimits, type PaperOwner } from "core/documents/ownPaper.ts"
import type { OwnPaperId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context, type Right } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { compute } from "../compute/pool.ts"
import { inTransaction } from "../db/connection.ts"
import { newId } from "../db/there.ts"
import { recheck } from "../decisions/recheck.ts"

/** What a paper belongs to: an order, a customer or an item, by its id. */
export interface OwnedBy {
  readonly owner: PaperOwner
  readonly id: number
}

export interface OwnPaper {
  readonly id: OwnPaperId
  readonly ownerId: number
  readonly name: string
  readonly pages: number
  readonly addedBy: string
}

const column = { order: "order_id", customer: "customer_id", item: "item_id" } as const
const right: Readonly<Record<PaperOwner, Right>> = {
  order: "orders.work",
  customer: "customers.manage",
  item: "goods.complete",
}

/** A file of five megabytes is read in a second or two: one that takes longer is made to (real time). */
const longestMs = 20_000

/** The papers that several orders, customers or items have, oldest first. */
export async function ownPapersOf(db: Knex, owner: PaperOwner, ids: readonly number[]): Promise<OwnPaper[]> {
  const rows = await db("own_paper")
    .whereIn(column[owner], [...ids])
    .whereNull("removed_at")
    .orderBy("id")
    .select("id", "order_id", "customer_id", "item_id", "name", "pages", "added_by")
  return rows.map((row) => ({
    id: row.id,
    ownerId: Number(row[column[owner]]),
    name: row.name,
    pages: row.pages,
    addedBy: row.added_by,
  }))
}

/**
 * Attaches a PDF to an order, customer or item: from now on it is printed with every shipment of it. Refused where it is
 * no PDF that can be read, or larger than a printer should be sent; the same file again is nothing new.
 */
export async function addOwnPaper(
  context: Context,
  { owner, id }: OwnedBy,
  file: { readonly name: string; readonly bytes: Uint8Array },
  mostMs = longestMs,
): Promise<Outcome<{ readonly pages: number; readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, right[owner])
  if (!(await ownerName(db, context, { owner, id }))) return refused(reason("own-paper.no-owner"))
  if (file.bytes.length > ownPaperLimits.bytes)
    return refused(reason("own-paper.too-large", { limit: ownPaperLimits.bytes / 1024 / 1024 }))
  const clean = await compute("cleanPdf", file.bytes, AbortSignal.timeout(mostMs)).catch((error: Error) => {
    if (error.name !== "AbortError" && error.name !== "TimeoutError") throw error
    return refused(reason("own-paper.too-dense"))
  })
  if (!clean.ok) return clean
  const bytes = Buffer.from(clean.value.bytes)
  if (bytes.length > 2 * ownPaperLimits.bytes) return refused(reason("own-paper.too-dense"))
  const { pages } = clean.value
  // what was sent tells whether it is the same: what we write of it differs in its dates
  const sha256 = createHash("sha256").update(file.bytes).digest("hex")
  const name = plainName(file.name)
  return inTransaction(db, async (trx) => {
    // whoever adds to the same one waits here
    const called = await ownerName(trx, context, { owner, id }, true)
    if (!called) return refused(reason("own-paper.no-owner"))
    const there = await trx("own_paper")
      .where({ [column[owner]]: id })
      .whereNull("removed_at")
      .select("sha256")
    if (there.some((one) => one.sha256 === sha256)) return accepted({ pages, name })
    if (there.length >= ownPaperLimits.papers)
      return refused(reason("own-paper.too-many", { most: ownPaperLimits.papers }))
    newId(
      await trx("own_paper").insert({
        [column[owner]]: id,
        name,
        pages,
        sha256,
        bytes,
        added_at: now,
        added_by: actor.name,
      }),
    )
    await record(trx, actor, now, {
      action: "own-paper.added",
      orderId: owner === "order" ? id : null,
      detail: { name, of: called },
    })
    // it may be the invoice that the order waits for
    if (owner === "order") await recheck(trx, id, actor, now)
    return accepted({ pages, name })
  })
}

/** Takes a paper off: the shipments that come are sent without it. Removed twice is removed. */
export async function removeOwnPaper(
  context: Context,
  { owner, id }: OwnedBy,
  paperId: OwnPaperId,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, right[owner])
  return inTransaction(db, async (trx) => {
    const called = await ownerName(trx, context, { owner, id })
    const paper = await trx("own_paper")
      .where({ id: paperId, [column[owner]]: id })
      .first("name")
    if (!called || !paper) return refused(reason("own-paper.gone"))
    const removed = await trx("own_paper").where({ id: paperId }).whereNull("removed_at").update({ removed_at: now })
    if (removed > 0) {
      await record(trx, actor, now, {
        action: "own-paper.removed",
        orderId: owner === "order" ? id : null,
        detail: { name: paper.name, of: called },
      })
      if (owner === "order") await recheck(trx, id, actor, now)
    }
    return accepted({ name: paper.name })
  })
}

/** The bytes of a paper; of an order's, where the order is one of the own warehouse. */
export async function ownPaperBytes(
  { db, actor }: Context,
  id: OwnPaperId,
): Promise<{ readonly name: string; readonly bytes: Buffer } | undefined> {
  authorise(actor, "packing.see")
  return db("own_paper as p")
    .leftJoin("sales_order as o", "o.id", "p.order_id")
    .where("p.id", id)
    .where((own) => own.whereNull("p.order_id").orWhere("o.warehouse_id", actor.warehouseId))
    .first("p.name", "p.bytes")
}

/**
 * The papers that go with a shipment: those of its orders, of their customers, and of the items in it, each once.
 *
 * @param lineIds the lines whose goods are in it
 */
export async function papersToGo(
  db: Knex,
  orderIds: readonly number[],
  lineIds: readonly number[],
): Promise<{ readonly id: OwnPaperId; readonly name: string }[]> {
  return db("own_paper")
    .whereNull("removed_at")
    .where((any) =>
      any
        .whereIn("order_id", [...orderIds])
        .orWhereIn(
          "customer_id",
          db("sales_order")
            .whereIn("id", [...orderIds])
            .whereNotNull("customer_id")
            .select("customer_id"),
        )
        .orWhereIn(
          "item_id",
          db("order_line")
            .whereIn("id", [...lineIds])
            .select("item_id"),
        ),
    )
    .orderByRaw("order_id IS NULL, customer_id IS NULL, id")
    .select("id", "name")
}

/** What an owner is called, where the person may know it; locked where a paper is added to it. */
async function ownerName(db: Knex, { actor }: Context, { owner, id }: OwnedBy, lock = false): Promise<string | null> {
  const query =
    owner === "order"
      ? db("sales_order").where({ id, warehouse_id: actor.warehouseId }).select("order_number as name")
      : owner === "customer"
        ? db("customer").where({ id }).select("name")
        : db("item").where({ id }).select("sku as name")
  const [row] = await (lock ? query.forUpdate() : query)
  return row ? String(row.name) : null
}

/** A file's name without its ending, in letters, figures and plain signs. */
function plainName(name: string): string {
  const plain = (name.split(/[\\/]/).at(-1) ?? "")
    .replace(/\.pdf$/i, "")
    .normalize("NFKD")
    .replace(/[^A-Za-z0-9 ._-]+/g, "")
    .trim()
  return plain.slice(0, 80) || "paper"
}
