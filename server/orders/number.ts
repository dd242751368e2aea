import type { WarehouseId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { there } from "../db/there.ts"

/**
 * The next short number of a warehouse. Numbers grow beyond five digits, and where a warehouse reaches the numbers of
 * another it goes on above all of them.
 */
export async function nextOrderNumber(trx: Knex, warehouseId: WarehouseId): Promise<string> {
  const warehouse = there(await trx("warehouse").where({ id: warehouseId }).forUpdate().first("order_serial"))
  let next = Number(warehouse.order_serial) + 1
  const text = () => String(next).padStart(5, "0")
  if (await trx("sales_order").where({ order_number: text() }).first("id")) {
    const most = await trx("warehouse").max({ most: "order_serial" }).first()
    next = Math.max(next, Number(most?.most)) + 1
    while (await trx("sales_order").where({ order_number: text() }).first("id")) next += 1
  }
  await trx("warehouse").where({ id: warehouseId }).update({ order_serial: next })
  return text()
}
