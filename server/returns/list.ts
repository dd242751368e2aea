import { addDays, type LocalDate, localDate } from "core/calendar/index.ts"
import type { FindingId, GoodsReturnId, LotId, WarehouseId } from "core/ids/index.ts"
import type { Condition, ReturnList } from "core/returns/index.ts"
import type { TrackingState } from "core/tracking/index.ts"
import type { Knex } from "knex"
import type { GoodsReturnRow } from "../db/tables.ts"
import { likeInAnyCase } from "../db/words.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { sentOf } from "./expect.ts"
import { binFor, findingsOf, type ItemBack, itemsOf } from "./inspect.ts"

/** Days after the last one of its label for which a return is awaited before somebody should ask (common practice). */
export const overdueAfter = 14

export interface ReturnSummary {
  readonly id: GoodsReturnId
  readonly name: string
  readonly kind: GoodsReturnRow["kind"]
  readonly state: GoodsReturnRow["state"]
  readonly late: boolean
  readonly validUntil: LocalDate | null
  readonly arrivedAt: Date | null
  readonly note: string
  readonly by: string
  readonly orderNumber: string | null
  readonly customer: string
  readonly place: string
  readonly packages: readonly {
    readonly id: number
    readonly piece: number
    readonly tracking: string
    readonly arrivedAt: Date | null
    /** Where its carrier says it is; null: it has none that tells. */
    readonly state: TrackingState | null
    readonly carrier: string
  }[]
  readonly announced: number
  readonly found: number
  /** Pieces in the inspection bin or in repair. */
  readonly here: number
}

export interface ReturnSearch {
  readonly text: string
  readonly list: ReturnList
  readonly page: number
}

/** Returns on a page. */
export const returnsAtOnce = 50

const listed = (db: Knex, warehouseId: WarehouseId) =>
  db("goods_return as g").leftJoin("sales_order as o", "o.id", "g.order_id").where("g.warehouse_id", warehouseId)

function narrow(query: Knex.QueryBuilder, list: ReturnList, overdue: LocalDate): void {
  if (list === "arrived") query.where("g.state", "arrived")
  else if (list === "in-stock") query.where("g.state", "inspected")
  else if (list === "settled") query.whereIn("g.state", ["done", "declined", "closed", "void"])
  else if (list === "overdue") query.where("g.state", "awaited").where("g.valid_until", "<", overdue)
  else
    query
      .where("g.state", "awaited")
      .where((any) => any.whereNull("g.valid_until").orWhere("g.valid_until", ">=", overdue))
}

async function overdueBefore(db: Knex, warehouseId: WarehouseId, now: Date): Promise<LocalDate> {
  const { zone } = await warehouseById(db, warehouseId)
  return addDays(localDate(now, zone), -overdueAfter)
}

/**
 * Returns of a warehouse: those that wait longest first where something is to do, else the latest; one more than a page
 * where there are more. A text is looked for in all of them, whatever list is chosen.
 */
export async function searchReturns(
  db: Knex,
  warehouseId: WarehouseId,
  search: ReturnSearch,
  now: Date,
): Promise<ReturnSummary[]> {
  const query = listed(db, warehouseId)
    .orderBy("g.id", search.list === "settled" || search.text !== "" ? "desc" : "asc")
    .limit(returnsAtOnce + 1)
    .offset((search.page - 1) * returnsAtOnce)
    .select("g.*", "o.order_number", "o.customer_name", "o.city", "o.state as ship_state")
  const text = search.text.trim()
  if (text === "") narrow(query, search.list, await overdueBefore(db, warehouseId, now))
  else {
    const like = `%${text.replace(/[\\%_]/g, "\\$&")}%`
    query.where((any) => {
      any
        .where("g.name", text.toUpperCase().slice(0, 30))
        .orWhere("o.order_number", text)
        .orWhere("o.source_number", text)
        .orWhere("o.po_number", text)
        .orWhereRaw(likeInAnyCase(db, "o.customer_name", like))
        .orWhereExists(
          db("goods_return_package as p").whereRaw("p.goods_return_id = g.id").where("p.tracking", text).select("p.id"),
        )
    })
  }
  return summed(db, await query)
}

type Row = GoodsReturnRow & {
  readonly order_number: string | null
  readonly customer_name: string | null
  readonly city: string | null
  readonly ship_state: string | null
}

async function summed(db: Knex, rows: readonly Row[]): Promise<ReturnSummary[]> {
  const ids = rows.map((row) => row.id)
  const packages = await db("goods_return_package as p")
    .leftJoin("tracked_unit as u", "u.id", "p.unit_id")
    .whereIn("p.goods_return_id", ids)
    .orderBy("p.piece")
    .select("p.*", "u.state", "u.carrier")
  const announced: { id: number; pieces: unknown }[] = await db("goods_return_line")
    .whereIn("goods_return_id", ids)
    .groupBy("goods_return_id")
    .select("goods_return_id as id")
    .sum({ pieces: "announced" })
  const found: { id: number; pieces: unknown; here: unknown }[] = await db("goods_return_finding")
    .whereIn("goods_return_id", ids)
    .whereNull("undone_at")
    .groupBy("goods_return_id")
    .select("goods_return_id as id")
    .sum({ pieces: "quantity" })
    .sum({ here: db.raw("in_inspection + in_repair") })
  return rows.map((row) => {
    const own = found.find((one) => one.id === row.id)
    return {
      id: row.id,
      name: row.name,
      kind: row.kind,
      state: row.state,
      late: !!row.is_late,
      validUntil: row.valid_until,
      arrivedAt: row.arrived_at,
      note: row.note,
      by: row.told_by,
      orderNumber: row.order_number,
      customer: row.customer_name ?? "",
      place: [row.city, row.ship_state].filter(Boolean).join(", "),
      packages: packages
        .filter((one) => one.goods_return_id === row.id)
        .map((one) => ({
          id: one.id,
          piece: one.piece,
          tracking: one.tracking,
          arrivedAt: one.arrived_at,
          state: one.state ?? null,
          carrier: one.carrier ?? "",
        })),
      announced: Number(announced.find((one) => one.id === row.id)?.pieces ?? 0),
      found: Number(own?.pieces ?? 0),
      here: Number(own?.here ?? 0),
    }
  })
}

/** How many returns of a warehouse wait for somebody: to be looked through, to be put away, and overdue. */
export async function openReturns(
  db: Knex,
  warehouseId: WarehouseId,
  now: Date,
): Promise<Readonly<Record<Exclude<ReturnList, "settled">, number>>> {
  const overdue = await overdueBefore(db, warehouseId, now)
  const count = async (list: ReturnList) => {
    const query = db("goods_return as g").where("g.warehouse_id", warehouseId)
    narrow(query, list, overdue)
    return Number((await query.count({ n: "*" }).first())?.n ?? 0)
  }
  return {
    arrived: await count("arrived"),
    awaited: await count("awaited"),
    overdue: await count("overdue"),
    "in-stock": await count("in-stock"),
  }
}

export interface FindingShown {
  readonly id: FindingId
  readonly sku: string | null
  readonly goods: string
  readonly lot: string | null
  readonly state: Condition
  readonly quantity: number
  readonly note: string
  readonly inInspection: number
  readonly inRepair: number
  readonly putBack: number
  readonly thrownAway: number
  readonly inStock: boolean
  readonly at: Date
  readonly by: string
  /** The bin that the item is picked from, where it lies in one. */
  readonly shelf: string
}

export interface ReturnShownWhole extends ReturnSummary {
  readonly items: readonly (ItemBack & {
    /** What went out by lot, where it is kept so. */
    readonly lots: readonly { readonly id: LotId; readonly code: string; readonly sent: number }[]
    readonly codes: readonly { readonly gtin: string; readonly pieces: number }[]
  })[]
  readonly findings: readonly FindingShown[]
  readonly bins: { readonly inspection: string | null; readonly repair: string | null }
}

/** A return of the warehouse with all that is known of it; null: there is none of the name. */
export async function returnNamed(db: Knex, warehouseId: WarehouseId, name: string): Promise<ReturnShownWhole | null> {
  const row = await listed(db, warehouseId)
    .where("g.name", name)
    .first("g.*", "o.order_number", "o.customer_name", "o.city", "o.state as ship_state")
  if (!row) return null
  const [summary] = await summed(db, [row as Row])
  if (!summary) return null
  const items = await itemsOf(db, row)
  const sent = row.order_id ? await sentOf(db, row.order_id) : []
  const codes = await db("item_level")
    .whereIn(
      "item_id",
      items.map((one) => one.itemId),
    )
    .whereNotNull("gtin")
    .select("item_id", "gtin", "quantity")
  const findings = await findingsOf(db, row.id)
  const names = await db("item")
    .whereIn(
      "id",
      findings.flatMap((one) => one.item_id ?? []),
    )
    .select("id", "sku")
  const lots = await db("lot")
    .whereIn(
      "id",
      findings.flatMap((one) => one.lot_id ?? []),
    )
    .select("id", "code")
  const shelves = await db("stock as s")
    .join("bin as b", "b.id", "s.bin_id")
    .where("s.warehouse_id", warehouseId)
    .whereIn(
      "s.item_id",
      findings.flatMap((one) => one.item_id ?? []),
    )
    .whereNull("b.purpose")
    .whereNull("b.blocked_why")
    .orderBy("s.on_hand", "desc")
    .limit(2_000)
    .select("s.item_id", "s.lot_id", "b.code")
  return {
    ...summary,
    items: items.map((item) => ({
      ...item,
      lots: sent.flatMap((one) =>
        one.itemId === item.itemId && one.lotId !== null && one.lot !== null
          ? [{ id: one.lotId, code: one.lot, sent: one.pieces }]
          : [],
      ),
      codes: codes
        .filter((one) => one.item_id === item.itemId)
        .map((one) => ({ gtin: one.gtin ?? "", pieces: one.quantity })),
    })),
    findings: findings.map((one) => ({
      id: one.id,
      sku: names.find((each) => each.id === one.item_id)?.sku ?? null,
      goods: one.goods,
      lot: lots.find((each) => each.id === one.lot_id)?.code ?? null,
      state: one.state,
      quantity: one.quantity,
      note: one.note,
      inInspection: one.in_inspection,
      inRepair: one.in_repair,
      putBack: one.put_back,
      thrownAway: one.thrown_away,
      inStock: one.inspection_stock_id !== null,
      at: one.at,
      by: one.told_by,
      shelf:
        (
          shelves.find((each) => each.item_id === one.item_id && each.lot_id === one.lot_id) ??
          shelves.find((each) => each.item_id === one.item_id)
        )?.code ?? "",
    })),
    bins: {
      inspection: (await binFor(db, warehouseId, "inspection"))?.code ?? null,
      repair: (await binFor(db, warehouseId, "repair"))?.code ?? null,
    },
  }
}

/** The returns of an order, the latest first. */
export async function returnsOfOrder(
  db: Knex,
  warehouseId: WarehouseId,
  orderId: number,
): Promise<
  { readonly name: string; readonly kind: GoodsReturnRow["kind"]; readonly state: GoodsReturnRow["state"] }[]
> {
  return db("goods_return")
    .where({ warehouse_id: warehouseId, order_id: orderId })
    .whereNot({ state: "void" })
    .orderBy("id", "desc")
    .limit(40)
    .select("name", "kind", "state")
}
