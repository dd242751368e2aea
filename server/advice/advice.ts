import type { Advice, Told } from "core/advice/index.ts"
import { addDays } from "core/calendar/index.ts"
import { countedPackage, justOver, laneOf, type RatedPackage } from "core/rating/index.ts"
import type { OptionCode } from "core/tariff/index.ts"
import {
  type Comparison,
  compare,
  costOf,
  type Offer,
  pricedBy,
  type Rateable,
  type RatingGround,
  requestFor,
} from "../rating/offers.ts"

/** Savings below this are not worth a hand's turn, in the warehouse's currency (common practice). */
const worthTelling = 0.5

/** A package that is taken apart again for a step must save more (common practice). */
const worthOpening = 2

/** How many days later a truck is looked at. */
const mostDays = 5

/** An advice with what it saves; nothing where that is not worth telling. */
export const told = (saves: number, advice: Told): Advice[] =>
  saves >= worthTelling ? [{ ...advice, saves: saves.toFixed(2) }] : []

/** What saves most first. */
export const bySaving = (some: readonly Advice[]): Advice[] =>
  [...some].sort((a, b) => Number(b.saves) - Number(a.saves))

/** An offer that is chosen and that we pay, with all that it was priced by. */
interface Chosen extends Pick<Offer, "service" | "terms" | "version" | "request" | "price" | "needs" | "exchange"> {}

/**
 * By what goods would cost less than by the service that is chosen, what saves most first: on a pallet or off it, on a
 * later day that keeps the promise, without an option that only a preference asks for (`droppable`), and a package that
 * is just over a step. None where nothing is chosen, or another pays. Works in any thread.
 */
export function rateAdvice(
  ground: RatingGround,
  goods: Rateable,
  { offers, preselected }: Comparison,
  chosen: Offer | null,
  droppable: readonly OptionCode[],
): Advice[] {
  const price = chosen?.price
  if (!chosen || price?.payer !== "shipper") return []
  const now = costOf(price).toNumber()
  const service = chosen.service.name
  const standing = [cheapestStanding(offers, "pallet"), cheapestStanding(offers, "loose")].flatMap((offer) =>
    offer?.price && offer.needs
      ? told(now - costOf(offer.price).toNumber(), { kind: offer.needs, service: offer.service.name })
      : [],
  )
  const options = droppable.flatMap((option) => {
    const cost = costWithout(ground, goods, chosen, option)
    return cost === null ? [] : told(now - cost, { kind: "option", service, option })
  })
  return bySaving([...standing, ...laterDay(ground, goods, preselected, now), ...options, ...steps(chosen)])
}

/** The cheapest offer in time for which goods must stand otherwise. */
const cheapestStanding = (offers: readonly Offer[], needs: "pallet" | "loose"): Offer | null =>
  offers
    .filter((one) => one.price && one.needs === needs && !one.late && !one.down && !one.short)
    .sort((a, b) => (a.price && b.price ? costOf(a.price).cmp(costOf(b.price)) : 0))[0] ?? null

/** The day on which leaving costs least, of those that keep the promise; none where none costs less than the next truck. */
function laterDay(ground: RatingGround, goods: Rateable, preselected: Offer | null, now: number): Advice[] {
  const first = preselected?.collection?.onDate
  if (goods.collectionId !== null || goods.promisedOn === null || !first) return []
  let best: Advice[] = []
  for (let days = 1; days <= mostDays; days += 1) {
    const day = addDays(first, days)
    if (day >= goods.promisedOn) break
    const then = compare(ground, { ...goods, chosenServiceId: null, shipOn: day }).preselected
    if (!then?.price || then.late || then.needs || then.collection?.onDate !== day) continue
    const saves = now - costOf(then.price).toNumber()
    if (saves > Number(best[0]?.saves ?? 0) + 1e-9)
      best = told(saves, { kind: "later", service: then.service.name, day, arrives: then.price.arrival.date })
  }
  return best
}

/** What goods cost by a service without an option that is asked for; null where it is not, or nothing is saved so. */
function costWithout(
  ground: RatingGround,
  goods: Rateable,
  { terms, version, request }: Chosen,
  option: OptionCode,
): number | null {
  if (!terms || !version || !request || !goods.options.includes(option)) return null
  const bare = (one: RatedPackage): RatedPackage => ({
    ...one,
    ...(option === "dry-ice" ? { dryIce: null } : {}),
    ...(option === "declared-value" ? { declared: null } : {}),
  })
  const less = {
    ...goods,
    options: goods.options.filter((one) => one !== option),
    parcels: goods.parcels.map(bare),
    pallets: goods.pallets.map(bare),
  }
  const asked = requestFor(ground, less, terms, request.shipDate, version.tariff.currency)
  const price = pricedBy(ground, version, terms, asked)
  return price && costOf(price).toNumber()
}

/** Packages that are just over a step of the service; none where goods do not stand yet as it takes them. */
function steps({ service, terms, version, request, needs, exchange }: Chosen): Advice[] {
  // steps are told in the tariff's currency
  if (needs !== null || exchange !== null) return []
  const lane = version && terms && request ? laneOf(version.tariff, terms, request) : null
  const packages = request?.packages ?? []
  const counted = packages.flatMap((one) => countedPackage(one) ?? [])
  if (!lane || !terms || counted.length !== packages.length) return []
  return justOver(terms, lane, counted)
    .filter(({ saves }) => saves >= worthOpening)
    .flatMap((one) =>
      told(one.saves, {
        kind: "step",
        service: service.name,
        package: packages[one.at]?.number ?? 0,
        by: one.by,
        figure: String(Number(one.figure.toFixed(2))),
        over: one.over.toFixed(1),
        unit: one.unit,
        freightClass: one.freightClass ?? "",
      }),
    )
}
