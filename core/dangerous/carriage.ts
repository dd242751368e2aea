import { type Reason, reason } from "../refusal/index.ts"
import type { Mass } from "../units/index.ts"
import { massIn } from "../units/index.ts"
import { type DangerousFacts, dangerousGaps } from "./index.ts"
import { limitOf, quantityIn, withinLimitedPackage } from "./limits.ts"
import { isLithium, isSmallLithium, lithiumEntry } from "./lithium.ts"

/** Whose rules hold on the way: by road those of 49 CFR or ADR, by air those of ICAO and IATA. */
export type Regime = "road" | "air"

/**
 * How dangerous goods go: as limited quantity or as small cells, both excepted from most rules and known by a mark, or
 * under all rules, with a declaration. Dry ice has a mark of its own.
 */
export type Manner = "limited" | "small-lithium" | "dry-ice" | "full"

/**
 * How goods of an item can go by a regime. Limited quantity is only what the item is marked as and what the limit of its
 * entry allows; by air both it and small cells that are shipped alone are declared like any other (ICAO Technical
 * Instructions, from memory).
 */
export function mannerOf(facts: DangerousFacts, regime: Regime): Manner {
  if (facts.unNumber === "UN1845") return "dry-ice"
  if (isLithium(facts.unNumber)) {
    const small = facts.lithium != null && isSmallLithium(facts.unNumber, facts.lithium)
    return small && !(regime === "air" && lithiumEntry(facts.unNumber).alone) ? "small-lithium" : "full"
  }
  return regime === "road" && facts.limitedQuantity === true && overLimit(facts, noPlace).length === 0
    ? "limited"
    : "full"
}

const noPlace = { line: 0, sku: "" }

/** Why goods that are marked as limited quantity are none: an entry without a limit, or more in an inner packaging. */
export function overLimit(facts: DangerousFacts, at: { readonly line: number; readonly sku: string }): Reason[] {
  if (facts.limitedQuantity !== true || isLithium(facts.unNumber) || facts.innerQuantity === null) return []
  const limit = limitOf(facts.unNumber, facts.packingGroup)
  const entry = { ...at, field: "limitedQuantity", unNumber: facts.unNumber, packingGroup: facts.packingGroup }
  if (!limit) return [reason("dangerous.no-limit", entry)]
  const quantity = quantityIn(facts.innerQuantity, facts.innerUnit, limit.unit)
  return quantity?.lte(limit.most)
    ? []
    : [
        reason("dangerous.over-limit", {
          ...entry,
          quantity: `${Number(facts.innerQuantity)} ${facts.innerUnit}`,
          limit: `${limit.most} ${limit.unit}`,
        }),
      ]
}

/** Why a package of limited quantities is none: it is too heavy. */
export const tooHeavyForLimited = (gross: Mass, packageNumber: number): Reason[] =>
  withinLimitedPackage(gross)
    ? []
    : [
        reason("dangerous.limited-weight", {
          package: packageNumber,
          figure: massIn(gross, "kg").toDecimalPlaces(1).toString(),
        }),
      ]

/** Explosives and radioactive goods have papers of their own, which are not made here. */
const special = (facts: DangerousFacts, at: { readonly line: number; readonly sku: string }): Reason[] =>
  /^[17]/.test(facts.hazardClass)
    ? [reason("dangerous.special", { ...at, hazard: facts.hazardClass, unNumber: facts.unNumber })]
    : []

/** Why dangerous goods can't go at all, however they are carried: data that lacks, a limit that is claimed and passed. */
export function dangerousFlaws(facts: DangerousFacts, at: { readonly line: number; readonly sku: string }): Reason[] {
  const gaps = dangerousGaps(facts, at)
  // a limit is held against data that are whole
  return [...(gaps.length > 0 ? gaps : overLimit(facts, at)), ...special(facts, at)]
}
