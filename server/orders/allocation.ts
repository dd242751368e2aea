import type { Knex } from "knex"

export interface Held {
  readonly quantity: number
  readonly picked: number
}

/** What each line holds of the stock, and how much of it is picked. */
export async function heldBy(trx: Knex, orderId: number): Promise<Map<number, Held>> {
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  const rows: any[] = await trx("allocation")
    .join("order_line", "order_line.id", "allocation.order_line_id")
    .where({ order_id: orderId })
    .groupBy("order_line.id")
    .select("order_line.id")
    .sum({ quantity: "quantity", picked: "picked" })
  return new Map(rows.map((row) => [row.id, { quantity: Number(row.quantity), picked: Number(row.picked) }]))
}

export interface Stock {
  readonly id: number
  readonly itemId: number
  free: number
}

/** What of each item lies where and is not allocated yet, locked until the transaction ends; what is taken first, first. */
export async function lockedStock(trx: Knex, warehouseId: number, itemIds: readonly number[]): Promise<Stock[]> {
  if (itemIds.length === 0) return []
  // locked in the order of their ids, so that two orders never wait for each other; the order of taking comes after
  const rows = await trx("stock")
    .leftJoin("lot", "lot.id", "stock.lot_id")
    .join("bin", "bin.id", "stock.bin_id")
    .where({ "stock.warehouse_id": warehouseId })
    .whereIn("stock.item_id", [...new Set(itemIds)])
    .orderBy("stock.id")
    .forUpdate()
    .select(
      "stock.id",
      "stock.item_id",
      "stock.on_hand",
      "stock.allocated",
      "lot.expires_on",
      "lot.received_on",
      "bin.walk_order",
    )
  const key = (row: { expires_on: string | null; received_on: string | null }) =>
    `${row.expires_on ?? "9999-12-31"} ${row.received_on ?? ""}`
  return rows
    .sort((a, b) => key(a).localeCompare(key(b)) || a.walk_order - b.walk_order || a.id - b.id)
    .map((row) => ({ id: row.id, itemId: row.item_id, free: row.on_hand - row.allocated }))
}

/** Takes stock for what the lines lack, first expiring or oldest lot first, then in the order of the walk. */
export async function allocate(
  trx: Knex,
  stock: Stock[],
  lines: readonly { id: number; item_id: number; lacking: number }[],
): Promise<void> {
  const taken = new Map<number, number>()
  const rows: { order_line_id: number; stock_id: number; quantity: number }[] = []
  for (const line of lines) {
    let need = line.lacking
    for (const place of stock) {
      if (need <= 0) break
      if (place.itemId !== line.item_id || place.free <= 0) continue
      const quantity = Math.min(need, place.free)
      place.free -= quantity
      need -= quantity
      taken.set(place.id, (taken.get(place.id) ?? 0) + quantity)
      rows.push({ order_line_id: line.id, stock_id: place.id, quantity })
    }
    if (need > 0) throw new Error(`stock of line ${line.id} went away under its lock`)
  }
  if (rows.length === 0) return
  await trx("allocation").insert(rows)
  const cases = [...taken].map(() => "WHEN ? THEN ?").join(" ")
  await trx("stock")
    .whereIn("id", [...taken.keys()])
    .update({ allocated: trx.raw(`allocated + CASE id ${cases} ELSE 0 END`, [...taken].flat()) })
}

/** Gives back what an order holds and has not picked. */
export async function freeStock(trx: Knex, orderId: number): Promise<void> {
  const rows = await trx("allocation")
    .join("order_line", "order_line.id", "allocation.order_line_id")
    .where({ order_id: orderId })
    .select("allocation.id", "stock_id", "quantity", "picked")
  for (const row of rows) {
    await trx("stock")
      .where({ id: row.stock_id })
      .decrement("allocated", row.quantity - row.picked)
    await trx("allocation").where({ id: row.id }).delete()
  }
}
