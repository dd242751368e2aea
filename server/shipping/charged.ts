import type { OrderId } from "core/ids/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import type { Shipment } from "../packages/shipment.ts"
import { change } from "../packing/change.ts"

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
