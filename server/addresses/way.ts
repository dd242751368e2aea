import { kilometres } from "core/address/index.ts"
import { roadFactor } from "core/round/index.ts"
import type { Place } from "core/tariff/index.ts"
import { type Length, length } from "core/units/index.ts"
import { placeOfPostalCode } from "./places.ts"

/**
 * The way by road between two postal codes, estimated from where their areas lie, in whole kilometres; null where
 * nothing tells where one of them is.
 */
export function wayBetween(from: Place, to: Place): Length | null {
  const [a, b] = [from, to].map((one) => placeOfPostalCode(one.country, one.postalCode))
  return a && b ? length(Math.round(kilometres(a, b) * roadFactor) * 1_000_000, "mm") : null
}
