import type { Advice } from "core/advice/index.ts"
import { settingOf } from "core/rules/index.ts"
import type { Context } from "../actors/index.ts"
import { rateable } from "../packages/goods.ts"
import type { Shipment } from "../packages/shipment.ts"
import { costOf, type Offer } from "../rating/offers.ts"
import type { Rated } from "../shipping/buy.ts"
import type { Otherwise } from "../shipping/otherwise.ts"
import { joinedWays } from "../shipping/variants.ts"
import { bySaving, rateAdvice, told } from "./advice.ts"

/**
 * By what a packed shipment would cost less than by the service that is chosen, what saves most first: all that rating
 * alone tells (`rateAdvice`), packed otherwise, and billed as the customer's instruction says. None where nothing is
 * chosen, or another pays.
 */
export function adviceOn(rated: Rated, shipment: Shipment, chosen: Offer | null, other: Otherwise | null): Advice[] {
  const price = chosen?.price
  if (!chosen || price?.payer !== "shipper" || shipment.state !== "open") return []
  const { ground, pallet } = rated
  const now = costOf(price).toNumber()
  const { wishes } = shipment
  const goods = rateable(ground.warehouse, shipment, pallet)
  const settled = settingOf(shipment.settled, "payer")
  return bySaving([
    ...rateAdvice(ground, goods, rated, chosen, wishes.optionsBy ? wishes.options : []),
    ...(other?.offer.price
      ? told(now - costOf(other.offer.price).toNumber(), {
          kind: "repack",
          service: other.offer.service.name,
          boxes: other.boxes.map(({ code }) => ({ code })),
        })
      : []),
    // what somebody asked for here against the customer's instruction
    ...(wishes.payer?.terms.startsWith("prepaid") && (settled?.terms === "collect" || settled?.terms === "third-party")
      ? told(now, { kind: "payer", service: chosen.service.name, terms: settled.terms, account: settled.account ?? "" })
      : []),
  ])
}

/** The other orders for the same place with which a shipment would cost less as one, each as it would really be. */
export async function joinAdvice(
  context: Context,
  rated: Rated,
  shipment: Shipment,
  chosen: Offer | null,
): Promise<Advice[]> {
  const price = chosen?.price
  if (price?.payer !== "shipper" || shipment.state !== "open") return []
  const now = costOf(price).toNumber()
  const packed = shipment.packages.length > 0
  return (await joinedWays(context, rated, shipment))
    .filter((one) => !one.late && !(packed && one.otherPacked))
    .flatMap(({ cost, services, otherId, other }) =>
      told(now - Number(cost), {
        kind: "join",
        service: services[0]?.name ?? "",
        orders: [{ id: otherId, orderNumber: other ?? "" }],
      }),
    )
}
