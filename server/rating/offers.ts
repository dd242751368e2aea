import type { Address } from "core/address/index.ts"
import { type LocalDate, localDate, localTime } from "core/calendar/index.ts"
import type { CollectionId, ServiceId } from "core/ids/index.ts"
import type { Money } from "core/money/index.ts"
import { hiddenBy } from "core/preferences/index.ts"
import {
  accountMatches,
  askedOf,
  type DangerousGood,
  exchanged,
  exchangedPrice,
  intoTariff,
  type Payer,
  type Priced,
  preselect,
  priceShipment,
  type RatedPackage,
  type RateRequest,
  type TariffExchange,
  unbeatenOf,
} from "core/rating/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import type { CategoryFacts, OptionCode, Place, Service } from "core/tariff/index.ts"
import type { Length } from "core/units/index.ts"
import type { Knex } from "knex"
import { type Collection, openCollections } from "../setup/collections.ts"
import { holidaySet } from "../setup/holidays.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { exchangeOf } from "./exchange.ts"
import { type Answer, Offer } from "./offer.ts"
import { type InForce, inForce, type RatedService, servicesOn, type TariffVersion } from "./tariffs.ts"

export { Offer } from "./offer.ts"

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
  readonly promisedOn: LocalDate | null
  /** The day from which it may leave; null: at once. */
  readonly shipOn: LocalDate | null
  /** The collection that a person chose for it: taken before an earlier one of its day. */
  readonly collectionId: CollectionId | null
  readonly dangerous: readonly DangerousGood[]
  /** Categories that tariffs treat apart; not said: none. */
  readonly categories?: CategoryFacts
  readonly options: readonly OptionCode[]
  /** What the goods are worth; null where that is not known. */
  readonly value: Money | null
  /** The way to the receiver, by road as estimated; null where it is not known. */
  readonly distance: Length | null
  readonly payer: Payer
  /** The account that is billed where another pays; empty: his own, at the receiver's end. */
  readonly account: string
  readonly dutiesPayer: Payer | null
  /** A service that a person chose for it: proposed where it can take it. */
  readonly chosenServiceId: ServiceId | null
  /** Code of the service that was settled by rule or instruction: proposed where it is in time. */
  readonly settledService?: string
  /** Services that the customer's routing instruction allows; none named: all. */
  readonly allowed?: readonly string[]
}

/** What rates stand on besides the shipment; read once for many. */
export interface RatingGround {
  readonly warehouse: Warehouse
  readonly services: readonly RatedService[]
  readonly collections: readonly Collection[]
  readonly now: Date
  /** Day and time of the wall clock at the warehouse. */
  readonly today: LocalDate
  readonly at: string
  /** By which tariffs in other currencies are told in the warehouse's, by their currency; plain data. */
  readonly exchange: Readonly<Record<string, TariffExchange>>
}

export async function ratingGround(db: Knex, warehouse: Warehouse, now: Date): Promise<RatingGround> {
  const today = localDate(now, warehouse.zone)
  const services = await servicesOn(db, today)
  return {
    warehouse,
    now,
    today,
    at: localTime(now, warehouse.zone),
    services,
    collections: await openCollections(db, warehouse.id, now),
    exchange: await exchangesOf(db, warehouse, services, today),
  }
}

/** The rates of the day by which tariffs in other currencies are compared; read only where there are such. */
async function exchangesOf(
  db: Knex,
  { currency: to }: Warehouse,
  services: readonly RatedService[],
  today: LocalDate,
): Promise<RatingGround["exchange"]> {
  const others = new Set(services.flatMap(({ versions }) => versions.map((one) => one.tariff.currency)))
  others.delete(to)
  if (others.size === 0) return {}
  const table = await exchangeOf(db)
  return Object.fromEntries(
    [...others].flatMap((from) => {
      const found = table.rateOn(from, to, today)
      return found ? [[from, { from, to, rate: found.rate.toString(), on: found.on }] as const] : []
    }),
  )
}

/** Rates a shipment by every service. Each leaves with its next truck from the ship date on, whose date is then its own. */
export const compareServices = async (
  db: Knex,
  warehouse: Warehouse,
  shipment: Rateable,
  now: Date,
): Promise<Comparison> => compare(await ratingGround(db, warehouse, now), shipment)

/**
 * The days on which nothing moves to a place besides the carrier's own. At home the carrier's calendar says all, since
 * carriers work on some public holidays; abroad the public holidays there are added.
 */
export const stillDays = (
  shipTo: Pick<Address, "country" | "state">,
  home: string,
  from: LocalDate,
): ReadonlySet<LocalDate> => (shipTo.country === home ? noDays : holidaySet(shipTo.country, shipTo.state, from))

const noDays: ReadonlySet<LocalDate> = new Set()

/** Where a warehouse sends from, kept with it: every service asks. */
const senders = new WeakMap<Pick<Warehouse, "country" | "postalCode">, Place>()
function senderOf(warehouse: Pick<Warehouse, "country" | "postalCode">): Place {
  const known = senders.get(warehouse) ?? { country: warehouse.country, postalCode: warehouse.postalCode }
  senders.set(warehouse, known)
  return known
}

/** How a service takes the goods: by hand, on pallets, or either, then as they stand. */
export const standingFor = ({ goods }: Service, standing: Rateable["standing"]): Rateable["standing"] =>
  goods.handling === "any" ? standing : goods.handling === "pallet" ? "pallet" : "loose"

/** What a service is asked for a shipment that leaves on a day. */
export function requestFor(
  { warehouse, today, at, exchange }: Pick<RatingGround, "warehouse" | "today" | "at" | "exchange">,
  shipment: Rateable,
  terms: Service,
  shipDate: LocalDate,
  currency: string = warehouse.currency,
): RateRequest {
  const options = askedOf(terms.goods.handling, shipment.options)
  const by = exchange[currency]
  const own = (value: Money | null | undefined) => (value && by ? intoTariff(value, by) : value)
  const packages = standingFor(terms, shipment.standing) === "pallet" ? shipment.pallets : shipment.parcels
  return {
    from: senderOf(warehouse),
    shipTo: shipment.shipTo,
    distance: shipment.distance,
    packages: by ? packages.map((one) => ({ ...one, declared: own(one.declared) ?? null })) : packages,
    shipDate,
    today,
    at,
    holidays: stillDays(shipment.shipTo, warehouse.country, shipDate),
    dangerous: shipment.dangerous,
    categories: shipment.categories,
    options,
    value: own(shipment.value) ?? null,
    payer: shipment.payer,
    dutiesPayer: shipment.dutiesPayer,
  }
}

/** Collections of a list by the service that leaves with them, kept as long as the list is. */
const byService = new WeakMap<readonly Collection[], Map<string, readonly Collection[]>>()

/** The trucks of a list that a service leaves with, in their order. */
export function leavingBy(collections: readonly Collection[], service: string): readonly Collection[] {
  const known = byService.get(collections) ?? new Map<string, readonly Collection[]>()
  byService.set(collections, known)
  const found =
    known.get(service) ?? collections.filter((one) => one.dropOff === null && one.services.includes(service))
  known.set(service, found)
  return found
}

/**
 * The collection that a shipment leaves with by a service, or the drop-off where that is asked for: the first one from its ship date on, or the one of that day
 * that a person chose. Null where none is known.
 */
export function collectionFor(
  collections: readonly Collection[],
  service: string,
  {
    shipOn,
    collectionId,
    options = [],
  }: Pick<Rateable, "shipOn" | "collectionId"> & Partial<Pick<Rateable, "options">>,
): Collection | null {
  const brought = options.includes("drop-off")
    ? collections.filter((one) => one.dropOff !== null && one.services.includes(service))
    : []
  // a service that takes no drop-offs refuses the option, beside its truck
  const own = brought.length > 0 ? brought : leavingBy(collections, service)
  const first = shipOn === null ? own[0] : own.find((one) => one.onDate >= shipOn)
  const chosen = collectionId === null ? undefined : own.find((one) => one.id === collectionId)
  return chosen?.onDate === first?.onDate ? (chosen ?? first ?? null) : (first ?? null)
}

/** What a service is priced by on the day of a collection, or why it can't be asked at all. */
export function whyNotAsked(
  { warehouse, exchange }: Pick<RatingGround, "warehouse" | "exchange">,
  service: RatedService,
  collection: Collection | null,
  { allowed = [], payer, account }: Pick<Rateable, "allowed" | "payer" | "account">,
): { readonly held: InForce | null; readonly collection: Collection | null; readonly refusals: readonly Reason[] } {
  const cannot = (held: InForce | null, why: Reason) => ({ held, collection, refusals: [why] })
  const held = collection ? inForce(service, collection.onDate) : null
  if (allowed.length > 0 && !allowed.includes(service.code)) return cannot(held, reason("rate.routing"))
  if (!collection) return cannot(held, reason("rate.no-collection"))
  if (!held) return cannot(held, reason("rate.no-tariff", { day: collection.onDate }))
  const { currency } = held.version.tariff
  if (currency !== warehouse.currency && !exchange[currency]) return cannot(held, reason("rate.currency", { currency }))
  if (payer === "third-party" && account === "") return cannot(held, reason("rate.no-account"))
  if (payer !== "shipper" && account !== "" && !accountMatches(service.accountForm, account))
    return cannot(held, reason("rate.account", { account, carrier: service.carrier, form: service.accountForm }))
  return { held, collection, refusals: [] }
}

/** The price of a shipment by a service, in the warehouse's currency whatever the tariff's is. */
export function pricedBy(
  { exchange }: Pick<RatingGround, "exchange">,
  version: TariffVersion,
  terms: Service,
  request: RateRequest,
): Priced | null {
  const price = priceShipment(version.tariff, terms, request)
  const by = exchange[version.tariff.currency]
  return price && by ? exchangedPrice(price, by) : price
}

/** What every service answers for a shipment by itself, beside no other. */
export function answersOf(ground: RatingGround, shipment: Rateable): readonly Answer[] {
  return ground.services.map((service): Answer => {
    const next = collectionFor(ground.collections, service.code, shipment)
    const down = service.downUntil !== null && service.downUntil.getTime() > Date.now()
    const { held, collection, refusals } = whyNotAsked(ground, service, next, shipment)
    const wanted = held ? standingFor(held.terms, shipment.standing) : shipment.standing
    const needs = wanted === shipment.standing ? null : wanted
    const [version, terms] = [held?.version ?? null, held?.terms ?? null]
    if (!version || !terms || !collection || refusals.length > 0)
      return {
        service,
        collection,
        version,
        terms,
        down,
        needs,
        price: null,
        short: null,
        request: null,
        exchange: null,
        cannot: refusals,
      }
    const { currency } = version.tariff
    const request = requestFor(ground, shipment, terms, collection.onDate, currency)
    const exchange = ground.exchange[currency] ?? null
    const price = pricedBy(ground, version, terms, request)
    const left = service.balance && exchange ? exchanged(service.balance, exchange) : service.balance
    const short = price?.payer === "shipper" && left?.amount.lt(price.contract.amount) ? left : null
    return { service, collection, version, terms, down, needs, price, short, request, exchange, cannot: none }
  })
}

const none: readonly Reason[] = []

/** The comparison itself, from services and collections already read. */
export function compare(ground: RatingGround, shipment: Rateable): Comparison {
  const answers = answersOf(ground, shipment)
  const comparable = comparables(answers)
  const unbeaten = new Set(unbeatenOf(comparable).map(({ one }) => one))
  const { promisedOn } = shipment
  const offers = answers.map(
    (one) =>
      new Offer(
        one,
        unbeaten.has(one),
        one.price !== null && promisedOn !== null && one.price.arrival.date > promisedOn,
      ),
  )
  return { offers, preselected: proposed(offers, shipment, hiddenAt(ground)) }
}

/** Which services the warehouse hides. */
const hiddenAt =
  ({ warehouse }: Pick<RatingGround, "warehouse">) =>
  (service: RatedService): boolean =>
    hiddenBy(warehouse.preferred, service) !== null

/**
 * The offer to propose: what a person chose or what was settled, where that is in time, else the cheapest in time of what
 * can be booked now and nobody hides; goods that must be set on a pallet for it, or off one, are compared alike.
 */
export function proposed(
  offers: readonly Offer[],
  { promisedOn, chosenServiceId, settledService }: Pick<Rateable, "promisedOn" | "chosenServiceId" | "settledService">,
  hides: (service: RatedService) => boolean,
): Offer | null {
  const comparable = comparables(offers)
  const up = comparable.filter(({ one }) => !one.down && !one.short)
  const inTime = (arrival: string) => promisedOn === null || arrival.slice(0, 10) <= promisedOn
  const byHand =
    comparable.find(({ one }) => one.service.id === chosenServiceId) ??
    up.find(({ one, arrives: arrival }) => one.service.code === settledService && inTime(arrival))
  const shown = (all: typeof comparable) => all.filter(({ one }) => !hides(one.service))
  // rather one that is hidden than none
  const choices = [shown(up), up, shown(comparable), comparable].find((all) => all.length > 0) ?? []
  return (byHand ?? preselect(choices, promisedOn))?.one ?? null
}

/** When goods arrive, as it compares: `2026-11-27 17:00`. */
export const arrivesAt = ({ arrival }: Pick<Priced, "arrival">) => `${arrival.date} ${arrival.time}`
/** What services are compared by: what we pay, or where another pays, what is published, since his contract is his. */
export const costOf = ({ payer, contract, list }: Pick<Priced, "payer" | "contract" | "list">) =>
  (payer === "shipper" ? contract : list).amount

/** Those of some answers that have a price, as they are compared. */
export const comparables = <T extends Answer>(answers: readonly T[]) =>
  answers.flatMap((one) => (one.price ? [{ one, cost: costOf(one.price), arrives: arrivesAt(one.price) }] : []))
