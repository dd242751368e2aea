import { type Charged, type ChargingRule, chargedByHand, chargedFor } from "core/charging/index.ts"
import type { OrderId } from "core/ids/index.ts"
import { money } from "core/money/index.ts"
import type { Rate } from "core/rating/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { ordersIn, worthOf } from "../packages/goods.ts"
import { handled, type Shipment } from "../packages/shipment.ts"
import { change } from "../packing/change.ts"
import type { RatedService } from "../rating/tariffs.ts"
import type { Warehouse } from "../setup/warehouse.ts"

/** What the customer is charged for a shipment by a service: as somebody set it by hand, or by the rules. */
export function chargedOf(
  rules: readonly ChargingRule[],
  warehouse: Warehouse,
  shipment: Shipment,
  service: Pick<RatedService, "mode" | "code">,
  rate: Rate,
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
    contract: rate.contract,
    list: rate.list,
    packages: Math.max(1, handled(shipment.packages).length),
    worth: worthOf(shipment, shipment.packages, warehouse.currency),
    orders: ordersIn(shipment, warehouse.currency),
    theirs,
  })
}

/** Sets by hand what the customer is charged, with a reason; an empty amount gives it back to the rules. */
export async function setCharged(
  context: Context,
  orderId: OrderId,
  amount: string,
  why: string,
  key: string,
): Promise<Outcome<Shipment>> {
  authorise(context.actor, "charging.override")
  if (amount !== "" && !/^\d{1,7}(\.\d{1,2})?$/.test(amount)) return refused(reason("charging.figure"))
  if (amount !== "" && why.trim() === "") return refused(reason("charging.why-needed"))
  const byHand = amount === "" ? null : { amount, why: why.trim().slice(0, 120), actor: context.actor.name }
  return change(
    context,
    orderId,
    {
      action: byHand ? "ship.charged" : "ship.charged-by-rule",
      detail: { amount, why: byHand?.why ?? "" },
      once: { key, text: `${amount} ${why}` },
    },
    async (trx, shipment) => {
      await trx("shipment")
        .where({ id: shipment.id })
        .update({ charged_by_hand: byHand && JSON.stringify(byHand) })
      return []
    },
  )
}
