import type { Address } from "core/address/index.ts"
import { localDate } from "core/calendar/index.ts"
import { isUnbeaten, preselect, type Rate, type RatedPackage, rateShipment } from "core/rating/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Collection, openCollections } from "../setup/collections.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { type RatedService, servicesOn } from "./tariffs.ts"

/** A service's answer for a shipment: a rate with the truck it would leave on, or why it can't. */
export interface Offer {
  readonly service: RatedService
  readonly collection: Collection | null
  readonly rate: Rate | null
  readonly refusals: readonly Reason[]
  /** Nothing else is as cheap and as early. */
  readonly unbeaten: boolean
  readonly late: boolean
  /** The carrier does not answer at present; rates stand, booking waits. */
  readonly down: boolean
}

export interface Comparison {
  readonly offers: readonly Offer[]
  /** The service to propose: cheapest that arrives by the promise, of those that can be booked now if there is one. */
  readonly preselected: Offer | null
}

export interface Rateable {
  readonly shipTo: Address
  readonly packages: readonly RatedPackage[]
  readonly promisedOn: string | null
}

/** Rates a shipment by every service. Each leaves with the service's next truck, whose date is the ship date. */
export async function compareServices(
  db: Knex,
  warehouse: Warehouse,
  shipment: Rateable,
  now: Date,
): Promise<Comparison> {
  const services = await servicesOn(db, localDate(now, warehouse.zone), warehouse.postalCode)
  const collections = await openCollections(db, warehouse.id, now)
  return compare(services, collections, shipment)
}

/** The comparison itself, from services and collections already read. */
export function compare(
  services: readonly RatedService[],
  collections: readonly Collection[],
  shipment: Rateable,
): Comparison {
  const answers = services.map((service) => {
    const collection = collections.find((one) => one.services.includes(service.code)) ?? null
    const down = service.downUntil !== null && service.downUntil.getTime() > Date.now()
    const cannot = (...refusals: Reason[]) => ({ service, collection, rate: null, refusals, down })
    if (!service.tariff || !service.chart) return cannot(reason("rate.no-tariff"))
    if (!collection) return cannot(reason("rate.no-collection"))
    const answer = rateShipment(service.tariff, service.chart, {
      shipTo: shipment.shipTo,
      packages: shipment.packages,
      shipDate: collection.onDate,
      holidays: service.holidays,
    })
    return answer.ok ? { service, collection, rate: answer.rate, refusals: [], down } : cannot(...answer.reasons)
  })
  const comparable = answers.flatMap((one) =>
    one.rate ? [{ one, cost: one.rate.contract.amount, arrives: arrives(one.rate) }] : [],
  )
  const offers = answers.map(
    (one): Offer => ({
      ...one,
      unbeaten:
        one.rate !== null && isUnbeaten({ cost: one.rate.contract.amount, arrives: arrives(one.rate) }, comparable),
      late: one.rate !== null && shipment.promisedOn !== null && one.rate.arrival.date > shipment.promisedOn,
    }),
  )
  const up = comparable.filter(({ one }) => !one.down)
  const chosen = preselect(up.length > 0 ? up : comparable, shipment.promisedOn)
  return { offers, preselected: chosen ? (offers[answers.indexOf(chosen.one)] ?? null) : null }
}

const arrives = (rate: Rate) => `${rate.arrival.date} ${rate.arrival.time}`
