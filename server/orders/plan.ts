import { localDate } from "core/calendar/index.ts"
import {
  buildPallets,
  type Content,
  contentsWeight,
  goesAsFreight,
  type PackagingType,
  palletSize,
  suggestPackaging,
} from "core/packing/index.ts"
import { preselect, type RatedPackage } from "core/rating/index.ts"
import { type Mass, sumMass, volumeIn } from "core/units/index.ts"
import type { Knex } from "knex"
import { addressOf } from "../addresses/row.ts"
import { contentOf, packagingTypes } from "../packing/catalogue.ts"
import { compare, type Rateable } from "../rating/offers.ts"
import { servicesOn } from "../rating/tariffs.ts"
import { type Collection, openCollections } from "../setup/collections.ts"
import { type Warehouse, warehouseById } from "../setup/warehouse.ts"

/** What plans of orders stand on; read once for many orders that are planned together. */
export interface Ground {
  readonly warehouse: Warehouse
  readonly services: Awaited<ReturnType<typeof servicesOn>>
  readonly collections: readonly Collection[]
  readonly packaging: readonly PackagingType[]
}

export async function groundOf(db: Knex, warehouseId: number, now: Date): Promise<Ground> {
  const warehouse = await warehouseById(db, warehouseId)
  return {
    warehouse,
    services: await servicesOn(db, localDate(now, warehouse.zone), warehouse.postalCode),
    collections: await openCollections(db, warehouseId, now),
    packaging: await packagingTypes(db),
  }
}

export interface OrderPlan {
  readonly collectionId: number | null
  readonly serviceId: number | null
  /** Set where services take the order and none arrives by its promise: the earliest that can be had. */
  readonly promise: { readonly promised: string; readonly earliest: string; readonly service: string } | null
}

/**
 * The collection that an order is to make: the last truck on the ship date of the cheapest service that keeps the
 * promise, rated for the cartons that its goods would fill. A stopped order is planned too, so that its triangle shows
 * by when it must be solved; one that no service can take is planned for the next truck of all.
 */
export function planOrder(
  { services, collections, packaging }: Ground,
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  order: any,
  // biome-ignore lint/suspicious/noExplicitAny: rows as the driver gives them
  lines: readonly any[],
): OrderPlan {
  const contents = lines
    .filter((line) => line.weight_kg !== null)
    .map((line, index) => contentOf(line, index, line.ordered))
  const comparison = compare(services, collections, {
    shipTo: addressOf(order),
    ...estimated(packaging, contents),
    promisedOn: order.promised_on,
    dangerous: [...new Set(lines.flatMap((line) => line.un_number ?? []))],
    liftgate: false,
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
  const late = best !== null && order.promised_on !== null && best.arrives.slice(0, 10) > order.promised_on
  return {
    collectionId: (sameDay.at(-1) ?? collections[0])?.id ?? null,
    serviceId: best?.offer.service.id ?? null,
    promise: late
      ? {
          promised: order.promised_on,
          earliest: best.arrives.slice(0, 10),
          service: best.offer.service.name,
        }
      : null,
  }
}

/** Plans an order anew and keeps the plan. */
async function replan(trx: Knex, ground: Ground, orderId: number): Promise<void> {
  const order = await trx("sales_order").where({ id: orderId }).first()
  const lines = await trx("order_line")
    .join("item", "item.id", "order_line.item_id")
    .where({ order_id: orderId })
    .orderBy("line_number")
    .select("item.*", "order_line.*")
  const plan = planOrder(ground, order, lines)
  await trx("sales_order")
    .where({ id: orderId })
    .update({ collection_id: plan.collectionId, planned_service_id: plan.serviceId })
}

/**
 * The packages that goods would probably make: as many of the best suited carton as they need by volume and load, the
 * weight shared evenly; pieces that no parcel takes on pallets of their own, by their size.
 */
function estimated(
  types: readonly PackagingType[],
  contents: readonly Content[],
): Pick<Rateable, "parcels" | "pallets" | "standing"> {
  const pallet = types.find((type) => type.kind === "pallet")
  const heavy = contents.filter((one) => goesAsFreight(one.item))
  const light = contents.filter((one) => !goesAsFreight(one.item))
  const parcels = light.length > 0 ? cartonsFor(types, light) : []
  if (!pallet) return { parcels, pallets: [], standing: "loose" }
  const built = buildPallets(pallet, parcels)
  const cartonsOn: RatedPackage[] = built.ok
    ? built.value.map((one, index) => ({ number: index + 1, weight: one.gross, size: one.outer, handling: "pallet" }))
    : parcels
  const alone = heavy.flatMap((one) => {
    const weight = sumMass([one.item.unitWeight, pallet.tare])
    const size = palletSize(pallet, [{ number: 1, weight, size: one.item.unitSize }])
    return Array.from({ length: one.quantity }, (): RatedPackage => ({ number: 0, weight, size, handling: "pallet" }))
  })
  const pallets = [...cartonsOn, ...alone].map((one, index) => ({ ...one, number: index + 1 }))
  // goods that must stand on a pallet leave no choice
  return heavy.length > 0 ? { parcels: pallets, pallets, standing: "pallet" } : { parcels, pallets, standing: "loose" }
}

function cartonsFor(types: readonly PackagingType[], contents: readonly Content[]): RatedPackage[] {
  const type = suggestPackaging(types, contents)
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
    .whereNull("o.left_line_at")
    .select("o.id")
  if (missed.length === 0) return 0
  const ground = await groundOf(trx, warehouse.id, now)
  for (const order of missed) await replan(trx, ground, order.id)
  return missed.length
}
