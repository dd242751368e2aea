import { Decimal } from "decimal.js"
import type { DangerousFacts } from "./index.ts"

/** How much of one entry is in a shipment, as its papers say it. */
export interface DangerousEntry {
  readonly facts: DangerousFacts
  /** Quantity of all of it, in liters or kilograms; of cells, their number. */
  readonly total: { readonly figure: Decimal; readonly unit: "L" | "kg" | "" }
  /** Packages with it, and their kind in words. */
  readonly packages: number
  readonly kind: string
}

/** The proper shipping name, with the technical name of a general one in brackets (172.203(k)). */
export const shippingName = ({ properShippingName, technicalName }: DangerousFacts): string =>
  technicalName ? `${properShippingName} (${technicalName})` : properShippingName

/**
 * The basic description in the order of 49 CFR 172.202(a)(1) to (4): identification number, proper shipping name, class
 * with subsidiary hazards in brackets, packing group; a technical name follows the shipping name in brackets
 * (172.203(k)).
 *
 * @example UN1805, Phosphoric acid solution, 8, PG III
 */
export const basicDescription = (facts: DangerousFacts): string =>
  [
    facts.unNumber,
    shippingName(facts),
    facts.subsidiary ? `${facts.hazardClass} (${facts.subsidiary})` : facts.hazardClass,
    facts.packingGroup && `PG ${facts.packingGroup}`,
  ]
    .filter(Boolean)
    .join(", ")

/** What one base unit of an item holds: in liters or kilograms; of cells their number. */
export function quantityOfPiece(facts: DangerousFacts): DangerousEntry["total"] {
  if (facts.lithium) return { figure: new Decimal(facts.lithium.count), unit: "" }
  const figure = new Decimal(facts.innerQuantity ?? 0).mul(facts.innerCount ?? 1)
  if (facts.innerUnit === "mL") return { figure: figure.div(1000), unit: "L" }
  if (facts.innerUnit === "g") return { figure: figure.div(1000), unit: "kg" }
  return { figure, unit: facts.innerUnit === "L" ? "L" : "kg" }
}
