import type { OrderId, TrackedUnitId, WarehouseId } from "core/ids/index.ts"
import { type Strokes, strokesSchema } from "core/signature/index.ts"
import type { EventKind, TrackingState } from "core/tracking/index.ts"
import type { Knex } from "knex"
import { placeOfPostalCode } from "../addresses/places.ts"
import { parsed } from "../audit/index.ts"
import { leadOf } from "../orders/joined.ts"
import { eventsAbout, eventsOfUnits } from "./follow.ts"

export interface EventShown {
  readonly id: number
  readonly kind: EventKind | null
  readonly code: string
  readonly text: string
  /** As the clock on the wall showed it there: minutes ahead of UTC go with it. */
  readonly at: Date
  readonly zoneOffset: number | null
  readonly place: string
  readonly name: string
  readonly strokes: Strokes
  readonly hasPicture: boolean
}

/** A package on its way, as its order's page shows it. */
export interface UnitShown {
  readonly id: TrackedUnitId
  readonly kind: "package" | "elsewhere" | "return"
  readonly name: string
  readonly tracking: string
  readonly carrier: string
  readonly state: TrackingState
  readonly since: Date | null
  readonly place: string
  readonly zone: string
  readonly dueOn: string | null
  readonly estimatedOn: string | null
  readonly deliveredAt: Date | null
  readonly deliveredTo: string
  readonly left: boolean
  readonly events: readonly EventShown[]
  /** Where it was seen, in the order of the way: longitude and latitude. */
  readonly way: readonly { readonly place: string; readonly at: readonly [number, number] }[]
}

/** Units of an order that are shown at most. */
const mostUnits = 300

const followedOf = (db: Knex, warehouseId: WarehouseId, orders: readonly OrderId[]) =>
  db("tracked_unit")
    .whereIn("order_id", [...orders])
    .where({ warehouse_id: warehouseId })
    .whereNull("void_at")

/** The names of an order's packages that were delivered. */
export async function deliveredOf(db: Knex, warehouseId: WarehouseId, orderId: OrderId): Promise<ReadonlySet<string>> {
  const orders = [orderId, await leadOf(db, orderId)]
  return new Set(await followedOf(db, warehouseId, orders).where({ state: "delivered" }).pluck("name"))
}

/** What is followed of an order, with what was told of it, the latest first; of one that is combined, what its shipment has. */
export async function unitsOf(db: Knex, warehouseId: WarehouseId, orderId: OrderId): Promise<UnitShown[]> {
  const rows = await followedOf(db, warehouseId, [orderId, await leadOf(db, orderId)])
    .orderBy("kind")
    .orderBy("piece")
    .orderBy("id")
    .limit(mostUnits)
  const events = await eventsOfUnits(db, rows)
  return rows.map((row) => {
    const own = events.get(row.id) ?? []
    return {
      id: row.id,
      kind: row.kind,
      name: row.name,
      tracking: row.tracking,
      carrier: row.carrier,
      state: row.state,
      since: row.since,
      place: row.place,
      zone: row.zone,
      dueOn: row.due_on,
      estimatedOn: row.estimated_on,
      deliveredAt: row.delivered_at,
      deliveredTo: row.delivered_to,
      left: row.left_at !== null || row.seen_at !== null,
      events: own.map((event) => ({
        id: event.id,
        kind: event.kind as EventKind | null,
        code: event.code,
        text: event.text,
        at: event.at,
        zoneOffset: event.way === "own" || event.way === "typed" ? null : event.zone_offset,
        place: event.place,
        name: event.name,
        strokes: event.strokes ? strokesSchema.parse(parsed(event.strokes)) : [],
        hasPicture: event.picture_media !== null,
      })),
      way: own.toReversed().flatMap((event) => {
        const at = event.postal_code ? placeOfPostalCode(event.country || "US", event.postal_code) : null
        return at ? [{ place: event.place, at: [at.longitude, at.latitude] as const }] : []
      }),
    }
  })
}

/** The picture of an event of an order of the warehouse; null where there is none. */
export async function pictureOf(
  db: Knex,
  warehouseId: WarehouseId,
  orderId: OrderId,
  eventId: number,
): Promise<{ readonly bytes: Buffer; readonly media: string } | null> {
  const units = await followedOf(db, warehouseId, [orderId, await leadOf(db, orderId)])
  const row = await eventsAbout(db, units).where({ id: eventId }).first("picture", "picture_media")
  return row?.picture && row.picture_media ? { bytes: row.picture, media: row.picture_media } : null
}
