import type { ItemId, OrderId } from "core/ids/index.ts"
import { historyFrom, type KnownQuantities, noticedFrom } from "core/orders/index.ts"
import type { Knex } from "knex"

/**
 * What is known of the quantities of some lines' items, by item: the largest lines of earlier orders that were
 * not canceled and that nobody doubts, and the most that ever lay in stock.
 *
 * @param lines with the item's own columns; only a line that may be unusual costs a query
 * @param onHand pieces of each item that lie in stock now (`piecesOnHand`)
 */
export async function knownQuantities(
  trx: Knex,
  orderId: OrderId,
  lines: readonly { readonly item_id: number; readonly ordered: number; readonly most_on_hand: number }[],
  onHand: ReadonlyMap<number, number>,
): Promise<Map<number, KnownQuantities>> {
  const known = new Map<number, KnownQuantities>()
  for (const line of lines) {
    const history = line.ordered >= noticedFrom ? await largestLine(trx, orderId, line.item_id) : null
    known.set(line.item_id, {
      mostOrdered: history ?? known.get(line.item_id)?.mostOrdered ?? null,
      mostOnHand: Math.max(line.most_on_hand, onHand.get(line.item_id) ?? 0),
    })
  }
  return known
}

/** Pieces of items that lie in stock, of all warehouses. */
export async function piecesOnHand(trx: Knex, itemIds: readonly ItemId[]): Promise<Map<number, number>> {
  if (itemIds.length === 0) return new Map()
  const rows: { item_id: number; pieces: string }[] = await trx("stock")
    .whereIn("item_id", [...itemIds])
    .groupBy("item_id")
    .select("item_id")
    .sum({ pieces: "on_hand" })
  return new Map(rows.map((row) => [row.item_id, Number(row.pieces)]))
}

/** Read from the largest down, along an index; null while the item has too few lines. */
async function largestLine(trx: Knex, orderId: OrderId, itemId: ItemId): Promise<number | null> {
  const some = await trx("order_line")
    .where({ item_id: itemId })
    .where("order_id", "<", orderId)
    .limit(historyFrom)
    .pluck("id")
  if (some.length < historyFrom) return null
  const row = await trx("order_line as l")
    .join("sales_order as o", "o.id", "l.order_id")
    .where("l.item_id", itemId)
    .where("l.order_id", "<", orderId)
    .whereNull("o.cancelled_at")
    .whereNotExists(
      trx("order_stop as s").whereRaw("s.order_id = l.order_id").where("s.code", "like", "stop.quantity-%"),
    )
    .orderBy("l.ordered", "desc")
    .first("l.ordered")
  return row?.ordered ?? null
}
