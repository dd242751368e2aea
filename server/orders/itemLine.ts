import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import type { ItemRow, OrderLineRow } from "../db/tables.ts"
import type { CaseColumns } from "../packaging/catalog.ts"

/** A line of an order with the columns of its item: `item.*, order_line.*`, and of the case that it was ordered in. */
export type ItemLineRow = ItemRow & OrderLineRow & CaseColumns

/** The lines of orders with their items, each order's by their numbers. */
export const itemLines = (db: Knex, orderIds: readonly OrderId[]): Promise<ItemLineRow[]> =>
  db("order_line as l")
    .join("item as i", "i.id", "l.item_id")
    .leftJoin("item_level as c", (on) =>
      on
        .on("c.item_id", "l.item_id")
        .andOn("c.name", "l.unit")
        .andOnVal("c.quantity", ">", 1)
        .andOnNotNull("c.length_mm")
        .andOnNotNull("c.width_mm")
        .andOnNotNull("c.height_mm"),
    )
    .whereIn("l.order_id", [...orderIds])
    .orderBy("l.order_id")
    .orderBy("l.line_number")
    .select<ItemLineRow[]>(
      "i.*",
      "l.*",
      "c.quantity as case_pieces",
      "c.weight_kg as case_weight_kg",
      "c.length_mm as case_length_mm",
      "c.width_mm as case_width_mm",
      "c.height_mm as case_height_mm",
    )
