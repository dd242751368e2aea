import type { ItemRow, OrderLineRow } from "../db/tables.ts"

/** A line of an order with the columns of its item: `item.*, order_line.*`. */
export type ItemLineRow = ItemRow & OrderLineRow
