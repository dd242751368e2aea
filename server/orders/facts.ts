import { placeOf } from "core/address/index.ts"
import type { LocalDate } from "core/calendar/index.ts"
import type { CollectionId, SourceId } from "core/ids/index.ts"
import {
  isOnTheLine,
  type Minutes,
  minutesLeft,
  minutesOfWork,
  type PackageState,
  type Stage,
  type StageFacts,
  stageOf,
} from "core/orders/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { OutsideOrderRow, SalesOrderRow } from "../db/tables.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** An order with what is computed of it: stage, stops, minutes of work. */
export interface OrderSummary {
  readonly id: number
  readonly orderNumber: string
  readonly sourceId: SourceId
  readonly sourceNumber: string
  readonly customer: string
  readonly poNumber: string
  readonly place: string
  readonly promisedOn: LocalDate | null
  readonly receivedAt: Date
  readonly collectionId: CollectionId | null
  /** The latest collection from which it is in time; null: there is time, or nothing is promised. */
  readonly mustCollectionId: CollectionId | null
  /** The order that leads the shipment which it is joined into. */
  readonly lead: { readonly id: number; readonly orderNumber: string } | null
  readonly stage: Stage
  readonly stops: readonly Reason[]
  readonly facts: StageFacts
  readonly workload: Minutes
  readonly left: Minutes
  readonly lines: number
  readonly bins: number
  readonly packages: number
  readonly papers: number
}

/** Of the packages of a shipment of several orders those that hold an order's lines; what is empty is the leading one's. */
const ownPackage = `(EXISTS (SELECT 1 FROM package_content c JOIN order_line l ON l.id = c.order_line_id WHERE c.package_id = p.id AND l.order_id = o.id)
  OR (o.joined_to_id IS NULL AND NOT EXISTS (SELECT 1 FROM package_content c WHERE c.package_id = p.id)))`

/** Sums per order that stage and workload need, as correlated sub-queries over indexed keys. */
const sums = (db: Knex) => ({
  lines: db.raw("(SELECT COUNT(*) FROM order_line l WHERE l.order_id = o.id) AS line_count"),
  ordered: db.raw("(SELECT COALESCE(SUM(l.ordered), 0) FROM order_line l WHERE l.order_id = o.id) AS ordered"),
  allocated: db.raw(
    "(SELECT COALESCE(SUM(a.quantity), 0) FROM order_line l JOIN allocation a ON a.order_line_id = l.id WHERE l.order_id = o.id) AS allocated",
  ),
  picked: db.raw(
    "(SELECT COALESCE(SUM(a.picked), 0) FROM order_line l JOIN allocation a ON a.order_line_id = l.id WHERE l.order_id = o.id) AS picked",
  ),
  bins: db.raw(
    "(SELECT COUNT(DISTINCT s.bin_id) FROM order_line l JOIN allocation a ON a.order_line_id = l.id JOIN stock s ON s.id = a.stock_id WHERE l.order_id = o.id) AS bins",
  ),
  packed: db.raw(
    "(SELECT COALESCE(SUM(c.quantity), 0) FROM order_line l JOIN package_content c ON c.order_line_id = l.id JOIN package p ON p.id = c.package_id AND p.state <> 'void' WHERE l.order_id = o.id) AS packed",
  ),
  freight: db.raw(
    "EXISTS (SELECT 1 FROM order_line l JOIN item i ON i.id = l.item_id WHERE l.order_id = o.id AND i.freight_only) AS freight",
  ),
  packages: db.raw(
    `(SELECT GROUP_CONCAT(IF(p.state = 'gone' AND p.delivered_at IS NOT NULL, 'delivered', p.state)) FROM shipment h JOIN package p ON p.shipment_id = h.id
      WHERE h.order_id = COALESCE(o.joined_to_id, o.id) AND ${ownPackage}) AS package_states`,
  ),
  outside: db.raw(
    "(SELECT IF(x.state = 'shipped' AND x.delivered_at IS NOT NULL, 'delivered', x.state) FROM outside_order x WHERE x.order_id = o.id) AS outside_state",
  ),
  lead: db.raw("(SELECT j.order_number FROM sales_order j WHERE j.id = o.joined_to_id) AS lead_number"),
})

/** An order's row with those sums. */
type SummedRow = SalesOrderRow & {
  readonly line_count: number
  readonly ordered: string
  readonly allocated: string
  readonly picked: string
  readonly packed: string
  readonly bins: number
  readonly freight: number
  readonly package_states: string | null
  readonly outside_state: OutsideOrderRow["state"] | "delivered" | null
  readonly lead_number: string
}

/** Summaries of the orders that a query over `sales_order AS o` narrows down to. */
export async function summaries(
  db: Knex,
  warehouse: Warehouse,
  narrow: (query: Knex.QueryBuilder) => Knex.QueryBuilder,
): Promise<OrderSummary[]> {
  const rows: SummedRow[] = await narrow(db("sales_order as o").select("o.*", ...Object.values(sums(db))))
  if (rows.length === 0) return []
  const stops = await db("order_stop")
    .whereIn(
      "order_id",
      rows.map((row) => row.id),
    )
    .orderBy("id")
    .select("order_id", "code", "detail")
  const stopsOf = new Map<number, Reason[]>()
  for (const stop of stops) {
    stopsOf.set(stop.order_id, [
      ...(stopsOf.get(stop.order_id) ?? []),
      { code: stop.code, values: parsed<Record<string, string>>(stop.detail) },
    ])
  }
  return rows.map((row) => summary(row, stopsOf.get(row.id) ?? [], warehouse))
}

function summary(row: SummedRow, stops: readonly Reason[], warehouse: Warehouse): OrderSummary {
  const packages = row.package_states ? (row.package_states.split(",") as PackageState[]) : []
  const facts: StageFacts = {
    ordered: Number(row.ordered),
    allocated: Number(row.allocated),
    picked: Number(row.picked),
    packed: Number(row.packed),
    packages,
    cancelled: row.cancelled_at !== null,
    outside:
      row.outside_state === null || row.outside_state === "refused"
        ? null
        : row.outside_state === "shipped" || row.outside_state === "delivered"
          ? row.outside_state
          : "asked",
  }
  const stage = stageOf(facts)
  const lines = Number(row.line_count)
  const bins = Number(row.bins) || lines
  // as many as were planned until all is packed, then as many as there are
  const made = packages.filter((state) => state !== "void").length
  const expected = facts.packed < facts.ordered ? Math.max(made, row.planned_packages) : made
  // an invoice over a border, a bill of lading for what only freight takes
  const papers = (row.country === warehouse.country ? 0 : 1) + (Number(row.freight) > 0 ? 1 : 0)
  const counts = { bins, lines, packages: Math.max(1, expected), papers }
  const workload = minutesOfWork(warehouse.workload, counts)
  const left = minutesLeft(workload, {
    picked: facts.ordered ? facts.picked / facts.ordered : 0,
    packed: facts.ordered ? facts.packed / facts.ordered : 0,
    labelled: !isOnTheLine(stage),
  })
  return {
    id: row.id,
    orderNumber: row.order_number,
    sourceId: row.source_id,
    sourceNumber: row.source_number,
    customer: row.customer_name,
    poNumber: row.po_number,
    place: placeOf(row),
    promisedOn: row.promised_on,
    receivedAt: row.received_at,
    collectionId: row.collection_id,
    mustCollectionId: row.must_collection_id,
    lead: row.joined_to_id === null ? null : { id: row.joined_to_id, orderNumber: row.lead_number },
    stage,
    stops,
    facts,
    workload,
    left,
    ...counts,
  }
}

export const summaryByNumber = async (
  db: Knex,
  warehouse: Warehouse,
  orderNumber: string,
): Promise<OrderSummary | null> =>
  (
    await summaries(db, warehouse, (query) =>
      query.where({ "o.order_number": orderNumber, "o.warehouse_id": warehouse.id }),
    )
  )[0] ?? null

export const summaryById = async (db: Knex, warehouse: Warehouse, id: number): Promise<OrderSummary | null> =>
  (await summaries(db, warehouse, (query) => query.where({ "o.id": id, "o.warehouse_id": warehouse.id })))[0] ?? null
