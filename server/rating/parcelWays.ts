import { hiddenBy } from "core/preferences/index.ts"
import { type Lane, type LaneRequest, laneOf, type PlainWay, plainWay } from "core/rating/index.ts"
import type { Service } from "core/tariff/index.ts"
import { collectionFor, type Rateable, type RatingGround, requestFor, whyNotAsked } from "./offers.ts"
import type { RatedService, TariffVersion } from "./tariffs.ts"

/** A shipment without its packages: what its ways depend on. */
export type Sending = Omit<Rateable, "parcels" | "pallets" | "standing">

/** A way by which cartons, or pallets, may go, ready to price them. */
export interface ParcelWay {
  readonly service: RatedService
  readonly terms: Service
  readonly version: TariffVersion
  readonly lane: Lane
  /** What the tariff is asked, but for the packages. */
  readonly request: LaneRequest
  /** The same as plain data; made when it is asked for. */
  readonly plain: () => PlainWay
}

/**
 * The ways that cartons of a shipment would be chosen among, by the rules of the comparison (`proposed`): the service
 * that a person chose, or that was settled and is in time; else those in time of what can be booked and is not hidden;
 * where none is in time, the fastest. Empty where none is known: then a packing goes by number and volume.
 */
export function parcelWays(ground: RatingGround, sending: Sending): readonly ParcelWay[] {
  const all = waysFor(ground, sending, "loose")
  const { promisedOn, chosenServiceId, settledService } = sending
  const inTime = (way: ParcelWay) => promisedOn === null || way.lane.arrival.date <= promisedOn
  const up = all.filter(({ service }) => service.downUntil === null || service.downUntil.getTime() <= Date.now())
  const byHand =
    all.find(({ service }) => service.id === chosenServiceId) ??
    up.find((way) => way.service.code === settledService && inTime(way))
  if (byHand) return [byHand]
  const shown = (some: readonly ParcelWay[]) =>
    some.filter(({ service }) => hiddenBy(ground.warehouse.preferred, service) === null)
  const choices = [shown(up), up, shown(all), all].find((some) => some.length > 0) ?? []
  const early = choices.filter(inTime)
  if (early.length > 0) return early
  const arrives = ({ lane: { arrival } }: ParcelWay) => `${arrival.date} ${arrival.time}`
  const first = choices.map(arrives).sort()[0]
  return choices.filter((way) => arrives(way) === first)
}

/** The ways by which goods could go on pallets, of those that can be booked, are not hidden and are in time. */
export const freightWays = (ground: RatingGround, sending: Sending): readonly ParcelWay[] =>
  waysFor(ground, sending, "pallet").filter(
    ({ service, lane }) =>
      (service.downUntil === null || service.downUntil.getTime() <= Date.now()) &&
      hiddenBy(ground.warehouse.preferred, service) === null &&
      (sending.promisedOn === null || lane.arrival.date <= sending.promisedOn),
  )

const waysFor = (ground: RatingGround, sending: Sending, standing: Rateable["standing"]): ParcelWay[] =>
  ground.services.flatMap((service) => wayBy(ground, sending, service, standing) ?? [])

function wayBy(
  ground: RatingGround,
  sending: Sending,
  service: RatedService,
  standing: Rateable["standing"],
): ParcelWay | null {
  const collection = collectionFor(ground.collections, service.code, sending)
  const { held, refusals } = whyNotAsked(ground, service, collection, sending)
  if (!held || !collection || refusals.length > 0) return null
  if ((held.terms.goods.handling === "pallet") !== (standing === "pallet")) return null
  const { terms, version } = held
  // cartons are not chosen by amounts that a rate of exchange decides
  if (version.tariff.currency !== ground.warehouse.currency) return null
  const { packages: _, ...request } = requestFor(
    ground,
    { ...sending, parcels: [], pallets: [], standing },
    terms,
    collection.onDate,
  )
  const lane = laneOf(version.tariff, terms, request)
  return lane
    ? { service, terms, version, lane, request, plain: () => plainWay(version.tariff, terms, request, lane) }
    : null
}
