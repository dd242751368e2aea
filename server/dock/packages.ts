import { placeOf } from "core/address/index.ts"
import type { ClosingFormId, CollectionId, OrderId } from "core/ids/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { type Mass, mass } from "core/units/index.ts"
import type { Knex } from "knex"
import { parsed } from "../audit/index.ts"

/** Where a package was scanned last: at the bench, in a lane, at a door, on the truck at a door. */
export interface PlaceSeen {
  readonly place: "bench" | "lane" | "door" | "truck"
  /** Which door or lane. */
  readonly door: string
}

/** Reads a place as it is stored: `bench`, `lane:B2`, `door:4`, `truck:4`. */
export function placeSeen(stored: string | null): PlaceSeen | null {
  const [place, door = ""] = (stored ?? "").split(":")
  return place === "bench" || place === "lane" || place === "door" || place === "truck" ? { place, door } : null
}

export interface DockPackage {
  readonly id: number
  readonly name: string
  readonly orderId: OrderId
  readonly state: "labelled" | "on-truck" | "left-behind" | "gone"
  readonly receiver: string
  readonly place: string
  readonly service: string
  readonly tracking: string
  readonly sscc: string
  readonly weight: Mass
  readonly seenAt: Date | null
  readonly seenWhere: PlaceSeen | null
  /** An order in its shipment is stopped or canceled: it must not leave. */
  readonly stopped: boolean
  /** It goes as freight, with a bill of lading. */
  readonly freight: boolean
  /** The form that it is on. */
  readonly formId: ClosingFormId | null
}

/** The packages of a collection in the order of their names. */
export async function packagesOf(
  db: Knex,
  collectionIds: readonly CollectionId[],
): Promise<Map<number, DockPackage[]>> {
  const rows = await db("package as p")
    .join("shipment as h", "h.id", "p.shipment_id")
    .join("sales_order as o", "o.id", "h.order_id")
    .join("service as s", "s.id", "h.service_id")
    .whereIn("p.collection_id", [...collectionIds])
    .whereIn("p.state", ["labelled", "on-truck", "left-behind", "gone"])
    .whereNull("p.parent_id")
    .orderBy(["o.order_number", "p.number"])
    .select(
      "p.*",
      "o.id as order_id",
      "o.order_number",
      "o.company",
      "o.city",
      "o.country",
      "o.state as region",
      "s.name as service_name",
      "s.mode as service_mode",
    )
  const stopped = await stoppedShipments(
    db,
    rows.map((row) => row.order_id),
  )
  const byCollection = new Map<number, DockPackage[]>(collectionIds.map((id) => [id, []]))
  for (const row of rows) {
    byCollection.get(row.collection_id)?.push({
      id: row.id,
      name: `${row.order_number}-${row.number}`,
      orderId: row.order_id,
      state: row.state,
      receiver: row.company,
      place: placeOf({ city: row.city, state: row.region, country: row.country }),
      freight: row.service_mode === "freight" || row.service_mode === "groupage",
      service: row.service_name,
      tracking: row.tracking,
      sscc: row.sscc,
      weight: mass(row.sent_kg, "kg"),
      seenAt: row.seen_at,
      seenWhere: placeSeen(row.seen_where),
      stopped: stopped.has(row.order_id),
      formId: row.form_id,
    })
  }
  return byCollection
}

/** Why the orders of shipments must not leave, by the leading order; only those that must not. */
export async function stoppedShipments(db: Knex, leads: readonly number[]): Promise<Map<number, Reason[]>> {
  const ids = [...new Set(leads)]
  if (ids.length === 0) return new Map()
  const rows = await db("sales_order as o")
    .leftJoin("order_stop as s", "s.order_id", "o.id")
    .where((member) => member.whereIn("o.id", ids).orWhereIn("o.joined_to_id", ids))
    .where((either) => either.whereNotNull("s.id").orWhereNotNull("o.cancelled_at"))
    .orderBy(["o.id", "s.id"])
    .select("o.id", "o.joined_to_id", "o.order_number", "o.cancelled_at", "s.code", "s.detail")
  const why = new Map<number, Reason[]>()
  for (const row of rows) {
    const lead = (row.joined_to_id ?? row.id) as number
    const order = { order: row.order_number as string }
    const reasons: Reason[] =
      row.cancelled_at !== null
        ? [reason("dock.order-cancelled", order)]
        : [reason("dock.order-stopped", order), { code: row.code, values: parsed<Record<string, string>>(row.detail) }]
    why.set(lead, [...(why.get(lead) ?? []), ...reasons])
  }
  return why
}
