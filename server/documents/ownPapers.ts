import type { PaperOwner } from "core/documents/ownPaper.ts"
import type { OwnPaperId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"

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

/** The column that names the owner of a paper. */
export const ownerColumn = { order: "order_id", customer: "customer_id", item: "item_id" } as const

/** The papers that several orders, customers or items have, oldest first. */
export async function ownPapersOf(db: Knex, owner: PaperOwner, ids: readonly number[]): Promise<OwnPaper[]> {
  const rows = await db("own_paper")
    .whereIn(ownerColumn[owner], [...ids])
    .whereNull("removed_at")
    .orderBy("id")
    .select("id", "order_id", "customer_id", "item_id", "name", "pages", "added_by")
  return rows.map((row) => ({
    id: row.id,
    ownerId: Number(row[ownerColumn[owner]]),
    name: row.name,
    pages: row.pages,
    addedBy: row.added_by,
  }))
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

/** Whether a paper of one's own is attached to an order. */
export const hasOwnPaper = async (db: Knex, orderId: number): Promise<boolean> =>
  (await db("own_paper").where({ order_id: orderId }).whereNull("removed_at").first("id")) !== undefined

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
