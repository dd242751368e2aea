import type { Decimal } from "decimal.js"
import { zip3 } from "../address/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type RateRequest, ratedAsResidential } from "./charge.ts"
import type { Tariff } from "./tariff.ts"

/** What a surcharge looks at: a package, or a shipment of freight; weight and longest edge in the units named. */
export interface SurchargedFacts {
  readonly weight: Decimal
  readonly weightUnit: string
  readonly longest: Decimal
  readonly lengthUnit: string
}

/** Why a surcharge is due, or null when it is not. */
export function surchargeReason(
  when: Tariff["surcharges"][number]["when"],
  { shipTo, liftgate }: Pick<RateRequest, "shipTo" | "liftgate">,
  facts: SurchargedFacts,
): Reason | null {
  switch (when.fact) {
    case "liftgate":
      return liftgate ? reason("charge.liftgate") : null
    case "residential":
      if (!ratedAsResidential(shipTo)) return null
      return reason(shipTo.kind === "unknown" ? "charge.residential.unconfirmed" : "charge.residential")
    case "weight-over":
      return facts.weight.gt(when.figure)
        ? reason("charge.weight-over", { limit: when.figure, unit: facts.weightUnit })
        : null
    case "longest-over":
      return facts.longest.gt(when.figure)
        ? reason("charge.longest-over", {
            edge: facts.longest.toString(),
            limit: when.figure,
            unit: facts.lengthUnit,
          })
        : null
    case "postal-area":
      return shipTo.country === "US" && when.zip3.includes(zip3(shipTo.postalCode))
        ? reason("charge.postal-area", { area: zip3(shipTo.postalCode) })
        : null
  }
}
