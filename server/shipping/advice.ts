import { addDays, type LocalDate } from "core/calendar/index.ts"
import { countedPackage, justOver, laneOf } from "core/rating/index.ts"
import type { OptionCode } from "core/tariff/index.ts"
import { rateable } from "../packages/goods.ts"
import type { Shipment } from "../packages/shipment.ts"
import { compare, costOf, type Offer } from "../rating/offers.ts"
import type { Rated } from "./buy.ts"
import type { Otherwise } from "./otherwise.ts"
import { optionCosts } from "./wishes.ts"

/** Something by which a shipment would cost less by the named service, each rated anew and true. */
export type Advice = Told & { readonly saves: string }
type Told = { readonly service: string } & (
  | { readonly kind: "repack"; readonly boxes: readonly { readonly code: string | null }[] }
  /** On a pallet instead of loose, or loose instead of on a pallet. */
  | { readonly kind: "pallet" | "loose" }
  /** Leaving on a later day, with the day of arrival. */
  | { readonly kind: "later"; readonly day: LocalDate; readonly arrives: LocalDate }
  /** An option that a preference asks for, and not the customer. */
  | { readonly kind: "option"; readonly option: OptionCode }
  /** A package that is just over a step. */
  | {
      readonly kind: "step"
      readonly package: number
      readonly by: "weight" | "edge" | "girth"
      readonly figure: string
      readonly over: string
      readonly unit: "lb" | "kg" | "in" | "cm"
    }
)

/** Savings below this are not worth a hand's turn, in the warehouse's currency (common practice). */
const worthTelling = 0.5

/** A package that is taken apart again for a step must save more (common practice). */
const worthOpening = 2

/** How many days later a truck is looked at. */
const mostDays = 5

/**
 * By what a packed shipment would cost less than by the service that is chosen, what saves most first: packed otherwise, on a
 * pallet or off it, on a later day that keeps the promise, without an option that only a preference asks for, and a
 * package that is just over a step. None where nothing is chosen, or another pays.
 */
export function adviceOn(rated: Rated, shipment: Shipment, chosen: Offer | null, other: Otherwise | null): Advice[] {
  const { price, terms, version, request } = chosen ?? {}
  if (!chosen || !price || !terms || !version || !request || price.payer !== "shipper" || shipment.state !== "open")
    return []
  const now = costOf(price).toNumber()
  const found: Advice[] = []
  const tell = (saves: number, advice: Told) => {
    if (saves >= worthTelling) found.push({ ...advice, saves: saves.toFixed(2) })
  }
  const service = chosen.service.name
  if (other?.offer.price)
    tell(now - costOf(other.offer.price).toNumber(), {
      kind: "repack",
      service: other.offer.service.name,
      boxes: other.boxes.map(({ code }) => ({ code })),
    })
  for (const offer of [cheapestStanding(rated.offers, "pallet"), cheapestStanding(rated.offers, "loose")])
    if (offer?.price && offer.needs)
      tell(now - costOf(offer.price).toNumber(), { kind: offer.needs, service: offer.service.name })
  const later = laterDay(rated, shipment, now)
  if (later) tell(later.saves, later.advice)
  if (shipment.wishes.optionsBy)
    for (const { option, asked, cost } of optionCosts(rated, shipment, chosen))
      if (asked && cost) tell(cost.amount.toNumber(), { kind: "option", service, option })
  const lane = laneOf(version.tariff, terms, request)
  const counted = request.packages.flatMap((one) => countedPackage(one) ?? [])
  if (lane && counted.length === request.packages.length)
    for (const one of justOver(terms, lane, counted).filter(({ saves }) => saves >= worthOpening))
      tell(one.saves, {
        kind: "step",
        service,
        package: request.packages[one.at]?.number ?? 0,
        by: one.by,
        figure: String(Number(one.figure.toFixed(2))),
        over: one.over.toFixed(1),
        unit: one.unit,
      })
  return found.sort((a, b) => Number(b.saves) - Number(a.saves))
}

/** The cheapest offer in time for which goods must stand otherwise. */
const cheapestStanding = (offers: readonly Offer[], needs: "pallet" | "loose"): Offer | null =>
  offers
    .filter((one) => one.price && one.needs === needs && !one.late && !one.down && !one.short)
    .sort((a, b) => (a.price && b.price ? costOf(a.price).cmp(costOf(b.price)) : 0))[0] ?? null

/** The day on which leaving costs least, of those that keep the promise; null where none costs less than today's truck. */
function laterDay(rated: Rated, shipment: Shipment, now: number) {
  const { ground, pallet } = rated
  if (shipment.leaving.collectionId !== null || shipment.promisedOn === null) return null
  const first = rated.preselected?.collection?.onDate
  if (!first) return null
  const plain = { ...rateable(ground.warehouse, shipment, pallet), chosenServiceId: null }
  let best: { readonly saves: number; readonly advice: Told } | null = null
  for (let days = 1; days <= mostDays; days += 1) {
    const day = addDays(first, days)
    if (day >= shipment.promisedOn) break
    const { preselected } = compare(ground, { ...plain, shipOn: day })
    if (!preselected?.price || preselected.late || preselected.needs || preselected.collection?.onDate !== day) continue
    const saves = now - costOf(preselected.price).toNumber()
    if (saves > (best?.saves ?? 0) + 1e-9)
      best = {
        saves,
        advice: {
          kind: "later",
          service: preselected.service.name,
          day,
          arrives: preselected.price.arrival.date,
        },
      }
  }
  return best
}
