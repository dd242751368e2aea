import type { CollectionId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { leaveBy, openOn, placesFrom } from "../rating/dropOffs.ts"
import { tariffOn } from "../rating/tariffs.ts"
import type { Collection, DropOff } from "../setup/collections.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"
import { withTruck } from "./close.ts"

/** Kilometers by road beyond which no place is offered beside the nearest. */
const farthest = 100
/** Places that are offered at most. */
const mostPlaces = 12

/** The places of a carrier that are open on the day of a drop-off, the nearest first. */
export async function placesFor(
  db: Knex,
  warehouse: Pick<Warehouse, "country" | "postalCode">,
  collection: Pick<Collection, "carrierId" | "onDate">,
): Promise<DropOff[]> {
  const tariff = await tariffOn(db, collection.carrierId, collection.onDate)
  if (!tariff) return []
  const open = openOn(tariff, collection.onDate)
  const all = placesFrom(warehouse, tariff.handover.dropOff).filter((one) => open.has(one.code))
  // the nearest whatever its distance; of others those that somebody would drive to
  return all.filter((one, index) => index === 0 || (one.km !== null && one.km <= farthest)).slice(0, mostPlaces)
}

/**
 * Chooses where a carrier's packages are brought to: for this drop-off and for those that are made later. Refused once it
 * has left, and for a place that is none of his or is closed on the day. Safe to repeat.
 */
export async function choosePlace(
  context: Context,
  collectionId: CollectionId,
  code: string,
): Promise<Outcome<{ readonly name: string }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const warehouse = await warehouseById(db, actor.warehouseId)
  return withTruck(db, actor.warehouseId, collectionId, async (trx, collection): Promise<Outcome<{ name: string }>> => {
    if (!collection?.dropOff) return refused(reason("dock.no-such-collection"))
    if (collection.closedAt) return refused(reason("drop.left", { door: collection.door }))
    const place = (await placesFor(trx, warehouse, collection)).find((one) => one.code === code)
    if (!place) return refused(reason("drop.no-place"))
    if (collection.dropOff.code === place.code) return accepted({ name: place.name })
    await trx("collection")
      .where({ id: collectionId })
      .update({
        drop_off: JSON.stringify(place),
        cut_off: leaveBy(place, collection.onDate, warehouse.zone),
      })
    await trx("drop_place")
      .insert({ warehouse_id: warehouse.id, carrier_id: collection.carrierId, code: place.code })
      .onConflict(["warehouse_id", "carrier_id"])
      .merge(["code"])
    await record(trx, actor, now, {
      action: "drop.place",
      collectionId,
      detail: { door: collection.door, carrier: collection.carrier, place: place.name },
    })
    return accepted({ name: place.name })
  })
}
