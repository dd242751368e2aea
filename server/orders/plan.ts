import { localDate } from "core/calendar/index.ts"
import { type Content, contentsWeight, suggestPackaging } from "core/packing/index.ts"
import { preselect, type RatedPackage } from "core/rating/index.ts"
import { type Mass, sumMass, volumeIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { contentOf, packagingTypes } from "../packing/catalogue.ts"
import { compare } from "../rating/offers.ts"
import { servicesOn } from "../rating/tariffs.ts"
import { openCollections } from "../setup/collections.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { addressOf } from "./facts.ts"

/**
 * Gives an order the collection it is to make: the last truck on the ship date of the cheapest service that keeps
 * the promise, rated for the cartons that its goods would fill. A stopped order is planned too, so that its triangle
 * shows by when it must be solved; one that no service can take is planned for the next truck of all.
 */
export async function planOrder(trx: Knex, warehouse: Warehouse, orderId: number, now: Date): Promise<void> {
  const order = await trx("sales_order").where({ id: orderId }).first()
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: orderId })
    .orderBy("line_number")
    .select("order_line.*", "item.*", "order_line.id as line_id")
  const contents = lines
    .filter((line) => line.weight_kg !== null)
    .map((line, index) => contentOf(line, index, line.ordered))
  const services = await servicesOn(trx, localDate(now, warehouse.zone), warehouse.postalCode)
  const collections = await openCollections(trx, warehouse.id, now)
  const packages = await estimatedPackages(trx, contents)
  const comparison = compare(services, collections, {
    shipTo: addressOf(order),
    packages,
    promisedOn: order.promised_on,
  })
  const offers = comparison.offers.flatMap((offer) =>
    offer.rate && offer.collection
      ? [
          {
            offer,
            collection: offer.collection,
            cost: offer.rate.contract.amount,
            arrives: `${offer.rate.arrival.date} ${offer.rate.arrival.time}`,
          },
        ]
      : [],
  )
  const best = preselect(offers, order.promised_on)
  const sameDay = best
    ? collections.filter(
        (one) => one.onDate === best.collection.onDate && one.services.includes(best.offer.service.code),
      )
    : []
  const collection = sameDay.at(-1) ?? collections[0] ?? null
  await trx("sales_order")
    .where({ id: orderId })
    .update({ collection_id: collection?.id ?? null, planned_service_id: best?.offer.service.id ?? null })
}

/** As many of the best suited carton as the goods need by volume and load, the weight shared evenly. */
async function estimatedPackages(trx: Knex, contents: readonly Content[]): Promise<RatedPackage[]> {
  const type = suggestPackaging(await packagingTypes(trx), contents)
  if (!type) return []
  const volume = contents.reduce((sum, one) => sum + Number(volumeIn(one.item.unitSize, "in")) * one.quantity, 0)
  const load = contentsWeight(contents)
  const count = Math.max(
    1,
    Math.ceil(volume / (Number(volumeIn(type.inner, "in")) * 0.8)),
    load.div(type.maxLoad).ceil().toNumber(),
  )
  const weight = sumMass([load.div(count) as Mass, type.tare])
  return Array.from({ length: count }, (_, index) => ({ number: index + 1, weight, size: type.outer }))
}

/** Moves orders that can't make a truck any more to the next one that takes their service. Returns how many. */
export async function replanMissed(trx: Knex, warehouse: Warehouse, now: Date): Promise<number> {
  const missed = await trx("sales_order as o")
    .leftJoin("collection as c", "c.id", "o.collection_id")
    .where("o.warehouse_id", warehouse.id)
    .where((query) => query.whereNull("c.id").orWhereNotNull("c.closed_at").orWhere("c.cut_off", "<=", now))
    .whereNotExists(trx("shipment").whereRaw("shipment.order_id = o.id").where("state", "bought"))
    .select("o.id")
  for (const order of missed) await planOrder(trx, warehouse, order.id, now)
  return missed.length
}
