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
import { type OwnedBy, ownerColumn } from "../documents/ownPapers.ts"
import { recheck } from "./recheck.ts"

const right: Readonly<Record<PaperOwner, Right>> = {
  order: "orders.work",
  customer: "customers.manage",
  item: "goods.complete",
}

/** A file of five megabytes is read in a second or two: one that takes longer is made to (real time). */
const longestMs = 20_000

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
      .where({ [ownerColumn[owner]]: id })
      .whereNull("removed_at")
      .select("sha256")
    if (there.some((one) => one.sha256 === sha256)) return accepted({ pages, name })
    if (there.length >= ownPaperLimits.papers)
      return refused(reason("own-paper.too-many", { most: ownPaperLimits.papers }))
    newId(
      await trx("own_paper").insert({
        [ownerColumn[owner]]: id,
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
      .where({ id: paperId, [ownerColumn[owner]]: id })
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
