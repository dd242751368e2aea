import { type FloorPlan, zoneAt } from "core/floorPlan/index.ts"
import type { OrderId, StockId, WarehouseId } from "core/ids/index.ts"
import {
  type PickStop,
  type ScanSteps,
  stepsOf,
  type WalkProof,
  walk,
  walkInParts,
  walkOrder,
} from "core/picking/index.ts"
import { lineLetter } from "core/scanning/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"
import type { AllocationRow, BinRow, ItemRow, LotRow, OrderLineRow, SalesOrderRow } from "../db/tables.ts"
import { there } from "../db/there.ts"
import { floorOf } from "../floorPlan/index.ts"
import { levelsOf } from "../packaging/catalog.ts"

/** A stop with the order that it is for. */
export interface OrderStop extends PickStop {
  readonly orderId: OrderId
  readonly orderNumber: string
  readonly stockId: StockId
  readonly runId: number | null
  /** Unverified pieces among the picked ones. */
  readonly unverified: number
  readonly zone: string
  /** Weight of a piece in kilograms; 0 where it is not known. */
  readonly kilograms: number
  /** Why nothing may be taken here now, such as a lot that is not released; null: it may. */
  readonly barred: "lot" | "bin" | null
}

/** How long a person who was sent to a stop, or confirmed its bin, is taken to be at work there (real time). */
export const claimMs = 600_000

/** An allocation with its line, order, bin, item and lot, as a stop is read. */
type StopRow = Pick<
  AllocationRow,
  "id" | "quantity" | "picked" | "unverified" | "stock_id" | "run_id" | "skipped_at" | "claimed_by" | "claimed_at"
> &
  Pick<OrderLineRow, "order_id" | "line_number"> &
  Pick<SalesOrderRow, "order_number" | "joined_to_id"> &
  Pick<BinRow, "walk_order" | "zone" | "blocked_why"> &
  Pick<ItemRow, "sku" | "description" | "weight_kg"> & {
    readonly bin: string
    readonly lot_state: LotRow["state"] | null
    readonly item_id: number
    readonly item_steps: unknown
    readonly warehouse_steps: unknown
    readonly lot: string | null
  }

async function stopsWhere(db: Knex, narrow: (query: Knex.QueryBuilder) => Knex.QueryBuilder): Promise<OrderStop[]> {
  const rows: StopRow[] = await narrow(
    db("allocation as a")
      .join("order_line as l", "l.id", "a.order_line_id")
      .join("sales_order as o", "o.id", "l.order_id")
      .join("stock as s", "s.id", "a.stock_id")
      .join("warehouse as w", "w.id", "s.warehouse_id")
      .join("bin as b", "b.id", "s.bin_id")
      .join("item as i", "i.id", "s.item_id")
      .leftJoin("lot", "lot.id", "s.lot_id"),
  ).select(
    "a.id",
    "a.quantity",
    "a.picked",
    "a.unverified",
    "a.stock_id",
    "a.run_id",
    "a.skipped_at",
    "a.claimed_by",
    "a.claimed_at",
    "l.order_id",
    "l.line_number",
    "o.order_number",
    "o.joined_to_id",
    "b.code as bin",
    "b.walk_order",
    "b.zone",
    "b.blocked_why",
    "lot.state as lot_state",
    "i.id as item_id",
    "i.sku",
    "i.description",
    "i.weight_kg",
    "i.scan_steps as item_steps",
    "w.scan_steps as warehouse_steps",
    "lot.code as lot",
  )
  if (rows.length === 0) return []
  const levels = await levelsOf(
    db,
    rows.map((row) => row.item_id),
  )
  const totes = await db("tote")
    .whereIn("order_id", [...new Set(rows.map((row) => row.order_id))])
    .orderBy("code")
    .select("order_id", "code")
  const now = Date.now()
  return rows.map((row) => ({
    allocationId: row.id,
    orderId: row.order_id,
    orderNumber: row.order_number,
    stockId: row.stock_id,
    runId: row.run_id,
    line: lineLetter(row.line_number - 1),
    bin: row.bin,
    binOrder: row.walk_order,
    zone: row.zone,
    kilograms: Number(row.weight_kg ?? 0),
    barred: row.blocked_why !== null ? "bin" : row.lot !== null && row.lot_state !== "released" ? "lot" : null,
    sku: row.sku,
    description: row.description,
    lot: row.lot,
    levels: levels.get(row.item_id) ?? [],
    quantity: row.quantity,
    picked: row.picked,
    unverified: row.unverified,
    steps: stepsOf(parsed<Partial<ScanSteps>>(row.warehouse_steps), parsed<Partial<ScanSteps>>(row.item_steps)),
    totes: totes.flatMap((tote) => (tote.order_id === row.order_id ? [tote.code as string] : [])),
    skippedAt: row.skipped_at,
    claimedBy: row.claimed_at && now - row.claimed_at.getTime() < claimMs ? row.claimed_by : null,
  }))
}

/** The stops of an order, with every level's GTIN so that a scan can be told at once; in plain aisle order. */
export const pickStops = async (db: Knex, orderId: OrderId): Promise<OrderStop[]> =>
  walkOrder(await stopsWhere(db, (query) => query.where("l.order_id", orderId)))

export interface Walked {
  readonly stops: readonly OrderStop[]
  /** Meters of the walk over all of them, and in plain aisle order; null where the floor is not drawn. */
  readonly metres: number | null
  readonly plainMetres: number | null
  /** How short it is known to be; null where the floor is not drawn. */
  readonly proof: WalkProof | null
  /** What is taken first and last because the warehouse wants it, and the meters that this costs; null: nothing is. */
  readonly wish: { readonly heavy: number; readonly cold: number; readonly more: number } | null
}

/** From this weight on a piece is taken first where heavy goods are (common practice: what one person lifts with care). */
const heavyKilograms = 15

/** Stops put into the order of a walk from the desk to the bench. */
export async function walked(db: Knex, warehouseId: WarehouseId, stops: readonly OrderStop[]): Promise<Walked> {
  const floor = await floorOf(db, warehouseId)
  const { desk, bench, distances } = floor
  if (!desk || !bench) return { stops: walkOrder(stops), metres: null, plainMetres: null, proof: null, wish: null }
  const shortest = walk(
    stops.map((stop) => stop.bin),
    distances,
    desk,
    bench,
  )
  const wanted = there(await db("warehouse").where({ id: warehouseId }).first("heavy_first", "cold_last"))
  const cold = new Set(wanted.cold_last ? coldBins(stops, floor.plan) : [])
  const heavy = new Set(
    wanted.heavy_first
      ? stops.filter((stop) => stop.kilograms >= heavyKilograms && !cold.has(stop.bin)).map((stop) => stop.bin)
      : [],
  )
  const others = stops.map((stop) => stop.bin).filter((bin) => !heavy.has(bin) && !cold.has(bin))
  const asked = heavy.size + cold.size > 0
  const found = asked ? walkInParts([[...heavy], others, [...cold]], distances, desk, bench) : shortest
  const more = found.metres === null || shortest.metres === null ? 0 : found.metres - shortest.metres
  return {
    stops: walkOrder(stops, found.bins),
    metres: found.metres,
    plainMetres: found.plainMetres,
    proof: found.proof,
    wish: asked ? { heavy: heavy.size, cold: cold.size, more } : null,
  }
}

/** Bins of stops that lie in a cold zone of the floor. */
function coldBins(stops: readonly OrderStop[], plan: FloorPlan): string[] {
  const here = new Set(stops.map((stop) => stop.bin.toUpperCase()))
  return plan.bins
    .filter((bin) => here.has(bin.code.toUpperCase()) && zoneAt(plan.zones, bin.x, bin.y)?.kind === "cold")
    .map((bin) => bin.code)
}

/** An order's stops in the order of its walk. */
export const orderWalk = async (db: Knex, warehouseId: WarehouseId, orderId: OrderId): Promise<Walked> =>
  walked(db, warehouseId, await pickStops(db, orderId))

/** The stops of a run in the order of its walk. */
export const runWalk = async (db: Knex, warehouseId: WarehouseId, runId: number): Promise<Walked> =>
  walked(db, warehouseId, await stopsWhere(db, (query) => query.where("a.run_id", runId)))
