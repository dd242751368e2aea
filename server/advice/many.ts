import type { Advice } from "core/advice/index.ts"
import type { OptionCode } from "core/tariff/index.ts"
import { groundOfPlain, type PlainGround, type PlainRateable, rateableOf } from "../rating/batch.ts"
import { compare, costOf } from "../rating/offers.ts"
import { rateAdvice } from "./advice.ts"

export interface ToAdvise {
  readonly id: number
  readonly rateable: PlainRateable
  /** Code of the service that is chosen; null: the one that the comparison proposes. */
  readonly chosen: string | null
  /** Options that only a preference asks for. */
  readonly droppable: readonly OptionCode[]
}

/** What a shipment costs as it is, and by what it would cost less. */
export interface Advised {
  readonly id: number
  readonly service: string
  readonly cost: number
  readonly late: boolean
  readonly advice: readonly Advice[]
}

/** Advice on many shipments, such as those of a day; of those that nothing takes, or that another pays, none. For a worker's thread. */
export function adviseMany({
  ground,
  shipments,
}: {
  readonly ground: PlainGround
  readonly shipments: readonly ToAdvise[]
}): Advised[] {
  const revived = groundOfPlain(ground)
  return shipments.flatMap(({ id, rateable, chosen: code, droppable }): Advised[] => {
    const goods = rateableOf(rateable)
    const comparison = compare(revived, goods)
    const chosen =
      (code && comparison.offers.find((one) => one.service.code === code && one.price)) || comparison.preselected
    if (chosen?.price?.payer !== "shipper") return []
    return [
      {
        id,
        service: chosen.service.name,
        cost: costOf(chosen.price).toNumber(),
        late: chosen.late,
        advice: rateAdvice(revived, goods, comparison, chosen, droppable),
      },
    ]
  })
}
