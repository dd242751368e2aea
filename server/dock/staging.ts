import { localDate } from "core/calendar/index.ts"
import type { Place } from "core/handover/index.ts"
import type { CollectionId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { type Mass, mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { collectionById } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { withLoad } from "./load.ts"
import { type PlaceSeen, placeSeen } from "./packages.ts"

/** What a package is found by. */
export type PackageCode = { readonly sscc: string } | { readonly orderNumber: string; readonly number: number }

/**
 * Notes that a package was put into a lane or at a door, with all that stands on it. At a door that is not its truck's it
 * is refused by its own door. Safe to repeat: the same place again changes only when it was seen.
 */
export async function putAt(
  context: Context,
  code: PackageCode,
  place: Place,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx): Promise<Outcome<{ readonly name: string }>> => {
    const row = await trx("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .join("sales_order as o", "o.id", "h.order_id")
      .where("h.warehouse_id", actor.warehouseId)
      .where("sscc" in code ? { "p.sscc": code.sscc } : { "o.order_number": code.orderNumber, "p.number": code.number })
      .first("p.id", "p.state", "p.number", "p.collection_id", "p.parent_id", "o.order_number", "h.order_id")
    const written = "sscc" in code ? code.sscc : `${code.orderNumber}-${code.number}`
    if (!row) return refused(reason("dock.no-such-package", { code: written }))
    const name = `${row.order_number}-${row.number}`
    if (row.state === "gone" || row.state === "void") return refused(reason("dock.already-gone", { package: name }))
    if (row.state === "on-truck") return refused(reason("staging.on-truck", { package: name }))
    if (row.parent_id) {
      const under = await trx("package").where({ id: row.parent_id }).first("number")
      return refused(reason("dock.on-pallet", { package: name, pallet: `${row.order_number}-${under?.number ?? ""}` }))
    }
    if (place.kind === "door") {
      const wrong = await wrongDoor(trx, context, row.collection_id, name, place.name)
      if (wrong) return wrong
    }
    await withLoad(trx, row.id).update({ seen_at: now, seen_where: `${place.kind}:${place.name}` })
    await record(trx, actor, now, {
      action: "dock.put",
      orderId: row.order_id,
      collectionId: row.collection_id,
      detail: { package: name, kind: place.kind, place: place.name },
    })
    return accepted({ name })
  })
}

/** Why a package must not wait at a door: its truck is at another. */
async function wrongDoor(
  trx: Knex,
  { actor }: Context,
  collectionId: CollectionId | null,
  name: string,
  door: string,
): Promise<ReturnType<typeof refused> | null> {
  const own = collectionId === null ? null : await collectionById(trx, actor.warehouseId, collectionId)
  if (!own) return refused(reason("dock.not-labelled", { package: name }))
  return own.door === door
    ? null
    : refused(reason("staging.other-door", { package: name, door: own.door, carrier: own.carrier, here: door }))
}

/** A package that is in the building. */
export interface StagedPackage {
  readonly id: number
  readonly name: string
  readonly orderNumber: string
  readonly receiver: string
  readonly state: string
  readonly weight: Mass | null
  readonly seenAt: Date | null
  readonly seenWhere: PlaceSeen | null
  readonly tracking: string
  readonly door: string | null
  readonly carrier: string | null
  readonly cutOff: Date | null
  readonly collectionId: CollectionId | null
  /** Its truck's time is over, or its day. */
  readonly late: boolean
}

/** So many packages a page shows at most. */
export const mostStaged = 300

/** What is in the building: packages that are closed and have not gone, by where they were seen last; searched. */
export async function inBuilding(
  context: Context,
  search: { readonly text: string; readonly place: Place | null },
): Promise<{ readonly packages: readonly StagedPackage[]; readonly more: boolean }> {
  const { db, actor, now } = context
  const query = db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .leftJoin("collection as c", "c.id", "p.collection_id")
    .leftJoin("carrier as k", "k.id", "c.carrier_id")
    .where("h.warehouse_id", actor.warehouseId)
    .whereIn("p.state", ["closed", "labelled", "left-behind", "on-truck"])
    .whereNull("p.parent_id")
    .orderByRaw("c.cut_off IS NULL, c.cut_off, o.order_number, p.number")
    .limit(mostStaged + 1)
  if (search.place) query.where("p.seen_where", `${search.place.kind}:${search.place.name}`)
  const text = search.text.trim()
  const [, orderNumber, number] = /^(\d{5,7})-(\d{1,3})$/.exec(text) ?? []
  if (orderNumber) query.where({ "o.order_number": orderNumber, "p.number": Number(number) })
  else if (text)
    query.where((either) => {
      for (const column of [
        "p.sscc",
        "p.tracking",
        "h.master_tracking",
        "o.order_number",
        "o.source_number",
        "o.po_number",
      ])
        either.orWhere(column, text)
      either.orWhere("o.company", "like", `%${text.replace(/[\\%_]/g, "\\$&")}%`)
    })
  const rows = await query.select(
    "p.id",
    "p.number",
    "p.state",
    "p.sent_kg",
    "p.seen_at",
    "p.seen_where",
    "p.tracking",
    "o.order_number",
    "o.company",
    "c.id as collection_id",
    "c.door",
    "c.cut_off",
    "c.on_date",
    "k.name as carrier",
  )
  const today = localDate(now, (await warehouseById(db, actor.warehouseId)).zone)
  return {
    packages: rows.slice(0, mostStaged).map((row) => ({
      id: row.id,
      name: `${row.order_number}-${row.number}`,
      orderNumber: row.order_number,
      receiver: row.company,
      state: row.state,
      weight: row.sent_kg === null ? null : mass(row.sent_kg, "kg"),
      seenAt: row.seen_at,
      seenWhere: placeSeen(row.seen_where),
      tracking: row.tracking ?? "",
      door: row.door ?? null,
      carrier: row.carrier ?? null,
      cutOff: row.cut_off ?? null,
      collectionId: row.collection_id ?? null,
      late: row.cut_off !== null && (row.cut_off < now || row.on_date < today),
    })),
    more: rows.length > mostStaged,
  }
}

/** How many packages wait where. */
export async function placesInUse(
  db: Knex,
  warehouseId: number,
): Promise<{ readonly where: PlaceSeen; readonly packages: number }[]> {
  const rows = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .where("h.warehouse_id", warehouseId)
    .whereIn("p.state", ["closed", "labelled", "left-behind", "on-truck"])
    .whereNull("p.parent_id")
    .whereNotNull("p.seen_where")
    .groupBy("p.seen_where")
    .orderBy("p.seen_where")
    .select<{ seen_where: string; n: number }[]>("p.seen_where", db.raw("COUNT(*) AS n"))
  return rows.flatMap((row) => {
    const where = placeSeen(row.seen_where)
    return where ? [{ where, packages: Number(row.n) }] : []
  })
}
