import { Decimal } from "decimal.js"
import type { Money } from "../../money/index.ts"
import type { Service, Tariff } from "../../tariff/index.ts"
import type { Arrival } from "../arrival.ts"
import { rateShipment } from "../rate.ts"
import type { Payer, RateRequest } from "../request.ts"
import { inexact } from "./exact.ts"
import { compiledService, type Lane, type LaneRequest } from "./lane.ts"
import { type CountedPackage, countedPackage } from "./packages.ts"

export type { Lane, LanePrice, LaneRequest } from "./lane.ts"
export {
  type CountedPackage,
  countedPackage,
  lengthParts,
  massParts,
  partsInKilogram,
  partsInMillimetre,
  sorted,
} from "./packages.ts"
export { laneOfPlain, type PlainWay, plainWay } from "./plainWay.ts"
export { compiledService, inexact }

/** What a shipment costs by a service and when it arrives, without the reasons. */
export interface Priced {
  readonly zone: string
  readonly list: Money
  readonly contract: Money
  readonly payer: Payer
  readonly arrival: Arrival
}

/**
 * The price and arrival of a shipment by one service, to the cent what `rateShipment` gives, in microseconds; null where
 * the service does not take it (`rateShipment` says why). Where figures are too fine or too large for whole numbers,
 * the explained engine is asked.
 */
export function priceShipment(tariff: Tariff, service: Service, request: RateRequest): Priced | null {
  const quick = quickly(tariff, service, request)
  if (quick !== undefined) return quick
  const answer = rateShipment(tariff, service, request)
  if (!answer.ok) return null
  const { zone, list, contract, payer, arrival } = answer.rate
  return { zone, list, contract, payer, arrival }
}

/** The same by whole numbers alone; undefined where they can't say. */
export function quickly(tariff: Tariff, service: Service, request: RateRequest): Priced | null | undefined {
  const packages: CountedPackage[] = []
  for (const one of request.packages) {
    const own = countedPackage(one)
    if (!own) return undefined
    packages.push(own)
  }
  try {
    const lane = laneOf(tariff, service, request)
    if (!lane) return lane
    const price = lane.price(packages)
    if (!price) return null
    const { zone, payer, arrival } = lane
    return { zone, list: moneyOf(price.list, lane), contract: moneyOf(price.contract, lane), payer, arrival }
  } catch (thrown) {
    if (thrown === inexact) return undefined
    throw thrown
  }
}

/** The lane of a request by a service; null where it does not go that way, undefined where whole numbers can't say. */
export function laneOf(tariff: Tariff, service: Service, request: LaneRequest): Lane | null | undefined {
  const compiled = compiledService(tariff, service)
  return compiled ? compiled(request) : undefined
}

/** Parts of a currency as an exact amount. */
export const moneyOf = (parts: number, { scale, currency }: Pick<Lane, "scale" | "currency">): Money => ({
  // a double shows the decimal that it was divided to while it has no more than 15 digits
  amount: parts < 1e15 ? new Decimal(parts / scale) : new Decimal(parts).div(scale),
  currency,
})
