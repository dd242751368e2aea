import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
import type { Wanted } from "core/orders/index.ts"
import type { ItemLevel } from "core/picking/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { SalesOrderRow } from "../db/tables.ts"
import { type ItemLineRow, itemLines } from "../orders/itemLine.ts"
import { labelsAskedForOf } from "../orders/labels.ts"
import { inOpenRuns } from "../orders/membership.ts"
import { passedOf } from "../orders/passed.ts"
import { stopsOf } from "../orders/stops.ts"
import { piecesOnHand } from "../orders/unusual.ts"
import { levelsOf } from "../packaging/catalog.ts"
import { type CheckedCustomer, checkedCustomers } from "../setup/credit.ts"
import { type HeldRow, heldRows, lockedStock, type Stock } from "../stock/allocation.ts"

/** An order that a check looks at, with all that belongs to it alone. */
export interface CheckedRows {
  /** As it stood when it was locked. */
  readonly order: SalesOrderRow
  readonly lines: readonly ItemLineRow[]
  /** What a person or its source wants of it. */
  readonly wanted: Wanted
  readonly held: readonly HeldRow[]
  readonly tags: readonly string[]
  /** Its stops as they stand written. */
  readonly stops: readonly Reason[]
  readonly passed: ReadonlySet<string> | undefined
  /** The orders that it is one shipment with; of one that follows another, that one alone. */
  readonly combinedWith: readonly { readonly id: number; readonly ship_to_key: string | null }[]
  readonly customer: CheckedCustomer | undefined
  /** Number of an earlier order of the customer with the same purchase-order number. */
  readonly samePurchaseOrder: string | null
  readonly inRun: boolean
}

/** What a check of orders goes by, read once for all of them. */
export interface CheckedTogether {
  readonly orders: readonly CheckedRows[]
  /** Orders of which labels are asked for: only what a person or a source wants can stop them. */
  readonly labelled: readonly Pick<CheckedRows, "order" | "wanted" | "stops">[]
  readonly levels: ReadonlyMap<number, readonly ItemLevel[]>
  /** Pieces of each item that lie in stock, of all warehouses. */
  readonly onHand: ReadonlyMap<number, number>
  /** Free stock by warehouse, locked until the transaction ends; whoever takes of it counts it down. */
  readonly stock: ReadonlyMap<WarehouseId, FreeStock>
}

export interface FreeStock {
  readonly byItem: ReadonlyMap<number, readonly FreePlace[]>
  readonly byId: ReadonlyMap<number, FreePlace>
}

/** A place of stock whose free pieces are counted as orders are checked one after another. */
export type FreePlace = Omit<Stock, "free"> & { free: number }

/**
 * Locks orders, their open shipments and the stock of their items, and reads what a check of them goes by, in the order
 * in which they are asked for. Canceled ones are left out. As many statements for a hundred orders as for one.
 *
 * @param fresh the orders were made just now: they hold nothing, nobody wants anything of them, and each stands alone
 */
export async function checkFacts(trx: Knex, orderIds: readonly OrderId[], fresh: boolean): Promise<CheckedTogether> {
  const rows = (await lockedOrders(trx, orderIds)).filter((order) => !order.cancelled_at)
  const ids = rows.map((order) => order.id)
  const stops = fresh ? new Map<number, Reason[]>() : await stopsOf(trx, ids)
  const wants = fresh ? new Map<number, Wanted>() : await wantedOf(trx, rows)
  const wantedOr = (order: SalesOrderRow) => wants.get(order.id) ?? wantedByItself(order)
  const asked = fresh ? new Set<number>() : await labelsAskedForOf(trx, ids)
  const place = new Map(orderIds.map((id, index) => [id, index]))
  const open = rows
    .filter((order) => !asked.has(order.id))
    .toSorted((a, b) => (place.get(a.id) ?? 0) - (place.get(b.id) ?? 0))
  const openIds = open.map((order) => order.id)
  const none = open.length === 0
  const known = !fresh && !none
  const held = known ? await heldRows(trx, openIds) : new Map<number, HeldRow[]>()
  const tags = known ? await tagsOf(trx, openIds) : new Map<number, string[]>()
  const passed = known ? await passedOf(trx, openIds) : new Map<number, ReadonlySet<string>>()
  const inRuns = known ? await inOpenRuns(trx, openIds) : new Set<number>()
  const combined = known ? await combinedWith(trx, open) : new Map<number, CheckedRows["combinedWith"]>()
  const lines = none ? [] : await itemLines(trx, openIds)
  const itemIds = [...new Set(lines.map((line) => line.item_id))]
  const customers = await checkedCustomers(trx, [...new Set(open.flatMap((order) => order.customer_id ?? []))])
  const twins = await samePurchaseOrders(trx, open)
  const byOrder = grouped(lines, (line) => line.order_id)
  const onHand = await piecesOnHand(trx, itemIds)
  const levels = none ? new Map<number, ItemLevel[]>() : await levelsOf(trx, itemIds)
  return {
    labelled: rows
      .filter((order) => asked.has(order.id))
      .map((order) => ({ order, wanted: wantedOr(order), stops: stops.get(order.id) ?? [] })),
    orders: open.map((order) => ({
      order,
      lines: byOrder.get(order.id) ?? [],
      wanted: wantedOr(order),
      held: held.get(order.id) ?? [],
      tags: tags.get(order.id) ?? [],
      stops: stops.get(order.id) ?? [],
      passed: passed.get(order.id),
      combinedWith: combined.get(order.id) ?? [],
      customer: customers.get(order.customer_id ?? 0),
      samePurchaseOrder: twins.get(order.id) ?? null,
      inRun: inRuns.has(order.id),
    })),
    levels,
    onHand,
    stock: await freePlaces(trx, open, lines),
  }
}

/** Orders with their open shipments, both locked before the stock of their items is. */
async function lockedOrders(trx: Knex, orderIds: readonly OrderId[]): Promise<SalesOrderRow[]> {
  const rows = await trx("sales_order")
    .whereIn("id", [...orderIds])
    .orderBy("id")
    .forUpdate()
  const leads = [...new Set(rows.map((order) => order.joined_to_id ?? order.id))]
  await trx("shipment").whereIn("order_id", leads).where({ state: "open" }).orderBy("id").forUpdate().select("id")
  return rows
}

async function freePlaces(trx: Knex, orders: readonly SalesOrderRow[], lines: readonly ItemLineRow[]) {
  const stock = new Map<WarehouseId, FreeStock>()
  for (const [warehouseId, own] of grouped(orders, (order) => order.warehouse_id)) {
    const ids = new Set(own.map((order) => order.id))
    const itemIds = [...new Set(lines.flatMap((line) => (ids.has(line.order_id) ? [line.item_id] : [])))]
    const places: FreePlace[] = await lockedStock(trx, warehouseId, itemIds)
    stock.set(warehouseId, {
      byItem: grouped(places, (place) => place.itemId),
      byId: new Map(places.map((place) => [place.id, place])),
    })
  }
  return stock
}

async function tagsOf(trx: Knex, orderIds: readonly OrderId[]): Promise<Map<number, string[]>> {
  const rows = await trx("order_tag")
    .whereIn("order_id", [...orderIds])
    .select("order_id", "tag")
  return new Map([...grouped(rows, (row) => row.order_id)].map(([id, own]) => [id, own.map((row) => row.tag)]))
}

async function combinedWith(
  trx: Knex,
  orders: readonly SalesOrderRow[],
): Promise<Map<number, CheckedRows["combinedWith"]>> {
  const leads = orders.flatMap((order) => order.joined_to_id ?? [])
  const rows = await trx("sales_order")
    .whereIn(
      "joined_to_id",
      orders.map((order) => order.id),
    )
    .orWhereIn("id", leads)
    .orderBy("id")
    .select("id", "joined_to_id", "ship_to_key")
  return new Map(
    orders.map((order) => [
      order.id,
      rows.filter((row) =>
        order.joined_to_id === null ? row.joined_to_id === order.id : row.id === order.joined_to_id,
      ),
    ]),
  )
}

const wantedByItself = (order: SalesOrderRow): Wanted => ({
  heldByHand: !!order.held_by_hand,
  sourceState: order.source_waits ? order.source_state : null,
  change: null,
  outsideRefused: null,
})

/** What persons or the orders' sources want of them, whatever the orders' data say. */
async function wantedOf(trx: Knex, orders: readonly SalesOrderRow[]): Promise<Map<number, Wanted>> {
  const ids = orders.map((order) => order.id)
  const outsides = await trx("outside_order as o")
    .join("outside_warehouse as w", "w.id", "o.outside_id")
    .whereIn("o.order_id", ids)
    .where("o.state", "refused")
    .select("o.order_id", "o.trouble", "w.name")
  const changes = await trx("order_change")
    .whereIn("order_id", ids)
    .where({ state: "open" })
    .select("order_id", "kind", "came_with")
  const outside = new Map(outsides.map((row) => [row.order_id, { warehouse: row.name, why: row.trouble ?? "" }]))
  const change = new Map(changes.map((row) => [row.order_id, { kind: row.kind, cameWith: row.came_with }]))
  return new Map(
    orders.map((order) => [
      order.id,
      {
        ...wantedByItself(order),
        change: change.get(order.id) ?? null,
        outsideRefused: outside.get(order.id) ?? null,
      },
    ]),
  )
}

/** The numbers of earlier orders of the same customer with the same purchase-order number, the first of each. */
async function samePurchaseOrders(trx: Knex, orders: readonly SalesOrderRow[]): Promise<Map<number, string>> {
  const asked = orders.filter((order) => order.po_number !== "").map((order) => order.id)
  if (asked.length === 0) return new Map()
  const twin = trx("sales_order as t")
    .whereRaw("t.po_number = o.po_number AND t.customer_name = o.customer_name AND t.id < o.id")
    .whereNull("t.cancelled_at")
    // a part of the same order is no other order
    .whereRaw("NOT (t.source_id = o.source_id AND t.source_number = o.source_number)")
    .orderBy("t.id")
    .limit(1)
    .select("t.order_number")
  const rows: { id: number; twin: string | null }[] = await trx("sales_order as o")
    .whereIn("o.id", asked)
    .select("o.id", twin.as("twin"))
  return new Map(rows.flatMap((row) => (row.twin === null ? [] : [[row.id, row.twin] as const])))
}
