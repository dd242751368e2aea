import type { Context } from "../accounts/index.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { type OrderSummary, summaries } from "./facts.ts"

export interface OrderPage {
  readonly orders: readonly OrderSummary[]
  /** Give this as `before` for the next page; null at the end. */
  readonly next: number | null
}

const pageSize = 100

/** Orders that hold every word in number, purchase order, customer, place or item, newest first, by keyset pages. */
export async function findOrders(
  context: Context,
  warehouse: Warehouse,
  words: string,
  before: number | null,
): Promise<OrderPage> {
  const { db, actor } = context
  const wanted = words.trim().split(/\s+/).filter(Boolean).slice(0, 6)
  const exact = wanted.length === 1 && !before ? await byNumber(context, wanted[0] as string) : []
  // the ids first and by themselves: what is computed of an order is computed for one page only
  const ids = exact.length > 0 ? exact : await matching(context, wanted, before)
  const found =
    ids.length === 0
      ? []
      : await summaries(db, warehouse, (query) =>
          query.where("o.warehouse_id", actor.warehouseId).whereIn("o.id", ids).orderBy("o.id", "desc"),
        )
  const orders = found.slice(0, pageSize)
  return { orders, next: found.length > pageSize ? (orders.at(-1)?.id ?? null) : null }
}

/** Orders of which the word is a whole number: ours, the source's, the purchase order's or a reference. Looks by index. */
async function byNumber({ db, actor }: Context, word: string): Promise<number[]> {
  const looks = ["bench_number", "source_number", "po_number"].map((column) =>
    db("sales_order")
      .where({ warehouse_id: actor.warehouseId, [column]: word })
      .limit(pageSize)
      .pluck("id"),
  )
  const references = db("order_reference as r")
    .join("sales_order as o", "o.id", "r.order_id")
    .where({ "r.value": word, "o.warehouse_id": actor.warehouseId })
    .limit(pageSize)
    .pluck("o.id")
  return [...new Set<number>((await Promise.all([...looks, references])).flat())]
}

/** The ids of a page of orders that hold every word, newest first. */
function matching({ db, actor }: Context, words: readonly string[], before: number | null): Promise<number[]> {
  const query = db("sales_order as o").where("o.warehouse_id", actor.warehouseId)
  if (before) query.where("o.id", "<", before)
  for (const word of words) {
    const like = `%${word.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`
    query.where((any) => {
      for (const column of ["bench_number", "source_number", "po_number", "customer_name", "company", "city", "state"])
        any.orWhere(`o.${column}`, "like", like)
      any.orWhereExists(db("order_reference as r").whereRaw("r.order_id = o.id").where("r.value", "like", like))
      any.orWhereExists(
        db("order_line")
          .join("item", "item.id", "order_line.item_id")
          .whereRaw("order_line.order_id = o.id")
          .where((item) => item.where("item.sku", "like", like).orWhere("item.description", "like", like)),
      )
    })
  }
  return query
    .orderBy("o.id", "desc")
    .limit(pageSize + 1)
    .pluck("o.id") as unknown as Promise<number[]>
}
