import { type Charged, type ChargingRule, chargedByHand, chargedFor } from "core/charging/index.ts"
import { money } from "core/money/index.ts"
import type { Rate } from "core/rating/index.ts"
import type { RatedService } from "../rating/tariffs.ts"
import type { Warehouse } from "../setup/warehouse.ts"
import { billingOf, ordersIn, worthOf } from "./goods.ts"
import { handled, type Shipment } from "./shipment.ts"

/** What the customer is charged for a shipment by a service: as somebody set it by hand, or by the rules. */
export function chargedOf(
  rules: readonly ChargingRule[],
  warehouse: Warehouse,
  shipment: Shipment,
  service: Pick<RatedService, "mode" | "code">,
  rate: Pick<Rate, "payer" | "contract" | "list">,
): Charged {
  const theirs = rate.payer !== "shipper"
  const { chargedByHand: byHand } = shipment
  // a quoted amount stands for the service that was quoted; by another one the rules say what is charged
  if (byHand && (byHand.service ?? service.code) === service.code)
    return chargedByHand(
      money(byHand.amount, warehouse.currency),
      { contract: rate.contract, theirs },
      {
        code: "charged.by-hand",
        values: { actor: byHand.actor, why: byHand.why },
      },
    )
  return chargedFor(rules, {
    customer: shipment.customerCode,
    mode: service.mode,
    country: shipment.shipTo.country,
    terms: billingOf(shipment).terms,
    contract: rate.contract,
    list: rate.list,
    packages: Math.max(1, handled(shipment.packages).length),
    worth: worthOf(shipment, shipment.packages, warehouse.currency),
    orders: ordersIn(shipment, warehouse.currency),
    theirs,
  })
}
