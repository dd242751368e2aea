import { addDays, localDate } from "core/calendar/index.ts"
import type { CollectionId, WarehouseId } from "core/ids/index.ts"
import { type Mass, mass } from "core/units/index.ts"
import type { Knex } from "knex"
import type { Context } from "../actors/index.ts"
import { type Collection, collectionById, collectionsOn, openCollections } from "../setup/collections.ts"

/** How many packages of a collection are where, each with what stands on it as one. */
export interface DoorCounts {
  readonly labelled: number
  readonly onTruck: number
  readonly leftBehind: number
  readonly gone: number
  readonly orders: number
  readonly weight: Mass
  /** Of what is on the truck and not gone. */
  readonly loadedWeight: Mass
  /** Its order is stopped or canceled, and it is on the truck. */
  readonly stoppedOn: number
}

export interface Door {
  readonly collection: Collection
  readonly counts: DoorCounts
}

const nothing: DoorCounts = {
  labelled: 0,
  onTruck: 0,
  leftBehind: 0,
  gone: 0,
  orders: 0,
  weight: mass(0, "kg"),
  loadedWeight: mass(0, "kg"),
  stoppedOn: 0,
}

/** The counts of collections, without reading their packages one by one. */
async function countsOf(db: Knex, collectionIds: readonly CollectionId[]): Promise<Map<number, DoorCounts>> {
  if (collectionIds.length === 0) return new Map()
  const state = (name: string) => db.raw("SUM(p.state = ?) AS ??", [name, name])
  const rows = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .whereIn("p.collection_id", [...collectionIds])
    .whereIn("p.state", ["labelled", "on-truck", "left-behind", "gone"])
    .whereNull("p.parent_id")
    .groupBy("p.collection_id")
    .select<Record<string, number>[]>(
      "p.collection_id as id",
      state("labelled"),
      state("on-truck"),
      state("left-behind"),
      state("gone"),
      db.raw("COUNT(DISTINCT h.order_id) AS orders"),
      db.raw("COALESCE(SUM(p.sent_kg), 0) AS kg"),
      db.raw("COALESCE(SUM(IF(p.state = 'on-truck', p.sent_kg, 0)), 0) AS loaded_kg"),
      db.raw(
        `SUM(p.state = 'on-truck' AND EXISTS (SELECT 1 FROM sales_order o LEFT JOIN order_stop s ON s.order_id = o.id
          WHERE (o.id = h.order_id OR o.joined_to_id = h.order_id) AND (s.id IS NOT NULL OR o.cancelled_at IS NOT NULL))) AS stopped_on`,
      ),
    )
  return new Map(
    rows.map((row) => [
      Number(row.id),
      {
        labelled: Number(row.labelled),
        onTruck: Number(row["on-truck"]),
        leftBehind: Number(row["left-behind"]),
        gone: Number(row.gone),
        orders: Number(row.orders),
        weight: mass(String(row.kg), "kg"),
        loadedWeight: mass(String(row.loaded_kg), "kg"),
        stoppedOn: Number(row.stopped_on),
      },
    ]),
  )
}

/**
 * The doors that are at work: today's collections that are open or whose closing was not sent yet, later ones that have
 * packages already, open ones of days before that have some still, and any other where it is asked for. `finished`: how
 * many of today are out of sight.
 */
export async function doorsAtWork(
  context: Context,
  zone: string,
  asked: number | null = null,
): Promise<{ readonly doors: readonly Door[]; readonly finished: number }> {
  const { db, actor, now } = context
  const day = localDate(now, zone)
  const [today, coming, before] = await Promise.all([
    collectionsOn(db, actor.warehouseId, day),
    openCollections(db, actor.warehouseId, now),
    forgotten(db, actor.warehouseId, day),
  ])
  const known = new Set([...today, ...before].map((one) => one.id))
  const later = coming.filter((one) => !known.has(one.id) && one.onDate > day)
  const all = [...before, ...today, ...later]
  const other =
    asked === null || all.some((one) => one.id === asked) ? null : await collectionById(db, actor.warehouseId, asked)
  const counts = await countsOf(
    db,
    [...all, ...(other ? [other] : [])].map((one) => one.id),
  )
  const finished = today.filter((one) => one.finalAt !== null && one.closedAt !== null)
  const out = new Set(finished.map((one) => one.id))
  const holds = (one: Collection) => {
    const own = counts.get(one.id) ?? nothing
    return own.labelled + own.onTruck + own.leftBehind + own.gone > 0
  }
  const laden = new Set(later.filter(holds).map((one) => one.id))
  const shown = [
    ...all.filter((one) => one.id === asked || (!out.has(one.id) && (one.onDate <= day || laden.has(one.id)))),
    ...(other ? [other] : []),
  ]
  return {
    doors: shown.map((collection) => ({ collection, counts: counts.get(collection.id) ?? nothing })),
    finished: finished.filter((one) => one.id !== asked).length,
  }
}

/** Collections of the days before that nobody closed, though something for them is here. */
async function forgotten(db: Knex, warehouseId: WarehouseId, day: string): Promise<Collection[]> {
  const ids = await db("collection as c")
    .join("package as p", "p.collection_id", "c.id")
    .where("c.warehouse_id", warehouseId)
    .whereNull("c.closed_at")
    .where("c.on_date", "<", day)
    .where("c.on_date", ">=", addDays(day as Collection["onDate"], -14))
    .whereIn("p.state", ["labelled", "on-truck", "left-behind"])
    .orderBy("c.cut_off")
    .distinct("c.id", "c.cut_off")
    .pluck("c.id")
  const found = await Promise.all(ids.slice(0, 20).map((id) => collectionById(db, warehouseId, id)))
  return found.flatMap((one) => one ?? [])
}

/** An order that is planned for a collection and not labeled yet. */
export interface OrderToGo {
  readonly orderNumber: string
  readonly customer: string
  readonly stopped: boolean
}

/** The orders that are planned for collections and not labeled yet, stopped ones too, by collection and number. */
export async function ordersToGo(
  db: Knex,
  warehouseId: WarehouseId,
  collectionIds: readonly CollectionId[],
): Promise<Map<number, OrderToGo[]>> {
  const rows = await db("sales_order as o")
    .where("o.warehouse_id", warehouseId)
    .whereIn("o.collection_id", [...collectionIds])
    .whereNull("o.left_line_at")
    .orderBy("o.order_number")
    .select("o.collection_id", "o.order_number", "o.customer_name")
    .select(db.raw("EXISTS (SELECT 1 FROM order_stop s WHERE s.order_id = o.id) AS stopped"))
  const byCollection = new Map<number, OrderToGo[]>(collectionIds.map((id) => [id, []]))
  for (const row of rows)
    byCollection
      .get(row.collection_id)
      ?.push({ orderNumber: row.order_number, customer: row.customer_name, stopped: row.stopped === 1 })
  return byCollection
}
