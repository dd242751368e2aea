import type { Address } from "core/address/index.ts"
import { type LocalDate, localDate } from "core/calendar/index.ts"
import { isUnbeaten, preselect, type Rate, type RatedPackage, rateShipment } from "core/rating/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { type Collection, openCollections } from "../setup/collections.ts"
import { holidaySet } from "../setup/holidays.ts"
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
  /** How the goods must stand for this service, when they do not stand so yet. */
  readonly needs: "pallet" | "loose" | null
}

export interface Comparison {
  readonly offers: readonly Offer[]
  /** The service to propose: cheapest that arrives by the promise, of those that can be booked now if there is one. */
  readonly preselected: Offer | null
}

export interface Rateable {
  readonly shipTo: Address
  /** The packages as a parcel service takes them: cartons by themselves. */
  readonly parcels: readonly RatedPackage[]
  /** The same goods as freight takes them: on pallets, as they stand or as they would. */
  readonly pallets: readonly RatedPackage[]
  /** What they stand as at present. */
  readonly standing: "loose" | "pallet"
  readonly promisedOn: string | null
  readonly dangerous: readonly string[]
  readonly liftgate: boolean
  /** A service that a person chose for it: proposed where it can take it. */
  readonly chosenServiceId: number | null
  /** Code of the service that was settled by rule or instruction: proposed where it is in time. */
  readonly settledService?: string
  /** Services that the customer's routing instruction allows; none named: all. */
  readonly allowed?: readonly string[]
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
  return compare(services, collections, shipment, warehouse.country)
}

/**
 * The days on which nothing moves to a place. At home the carrier's own calendar says all, since carriers work on some
 * public holidays; abroad the public holidays there are added.
 */
export function stillDays(
  service: RatedService,
  shipTo: Address,
  home: string,
  from: LocalDate,
): ReadonlySet<LocalDate> {
  if (shipTo.country === home) return service.holidays
  return new Set([...service.holidays, ...holidaySet(shipTo.country, shipTo.state, from)])
}

/** The comparison itself, from services and collections already read. */
export function compare(
  services: readonly RatedService[],
  collections: readonly Collection[],
  shipment: Rateable,
  home: string,
): Comparison {
  const answers = services.map((service) => {
    const collection = collections.find((one) => one.services.includes(service.code)) ?? null
    const down = service.downUntil !== null && service.downUntil.getTime() > Date.now()
    const wanted = service.tariff?.kind === "freight" ? "pallet" : "loose"
    const needs = wanted === shipment.standing ? null : (wanted as "pallet" | "loose")
    const cannot = (...refusals: Reason[]) => ({ service, collection, rate: null, refusals, down, needs })
    if (shipment.allowed && shipment.allowed.length > 0 && !shipment.allowed.includes(service.code))
      return cannot(reason("rate.routing"))
    if (!service.tariff || !service.chart) return cannot(reason("rate.no-tariff"))
    if (!collection) return cannot(reason("rate.no-collection"))
    const answer = rateShipment(service.tariff, service.chart, {
      shipTo: shipment.shipTo,
      packages: wanted === "pallet" ? shipment.pallets : shipment.parcels,
      shipDate: collection.onDate,
      holidays: stillDays(service, shipment.shipTo, home, collection.onDate),
      dangerous: shipment.dangerous,
      liftgate: shipment.liftgate,
    })
    return answer.ok ? { service, collection, rate: answer.rate, refusals: [], down, needs } : cannot(...answer.reasons)
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
  // as it stands, on a carrier that can be booked now, before what must be built first
  const up = comparable.filter(({ one }) => !one.down)
  const ready = up.filter(({ one }) => one.needs === null)
  const inTime = (arrival: string) => shipment.promisedOn === null || arrival.slice(0, 10) <= shipment.promisedOn
  const byHand =
    comparable.find(({ one }) => one.service.id === shipment.chosenServiceId) ??
    up.find(({ one, arrives: arrival }) => one.service.code === shipment.settledService && inTime(arrival))
  const chosen = byHand ?? preselect([ready, up, comparable].find((some) => some.length > 0) ?? [], shipment.promisedOn)
  return { offers, preselected: chosen ? (offers[answers.indexOf(chosen.one)] ?? null) : null }
}

const arrives = (rate: Rate) => `${rate.arrival.date} ${rate.arrival.time}`
