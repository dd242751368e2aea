import { accepted, type Reason, reason, refused } from "../../refusal/index.ts"
import { figureFor } from "../../tariff/index.ts"
import type { Charge } from "../charge.ts"
import { baseCharge, type Pricer } from "./base.ts"

/** One price for the carrier's own box, whatever it weighs up to the limit, by zone or not. */
export const byBox: Pricer<"box"> = (asked) => {
  const { boxes } = asked.price
  const charges: Charge[] = []
  const missing: Reason[] = []
  for (const { one } of asked.packages) {
    const box = one.packaging ?? ""
    const price = Object.hasOwn(boxes, box) ? figureFor(boxes[box] as string, asked.zone) : null
    if (price === null)
      missing.push(reason("rate.own-box-only", { package: one.number, boxes: Object.keys(boxes).join(", ") }))
    else charges.push(baseCharge(asked, one.number, price, reason("why.box", { box })))
  }
  if (missing.length > 0) return refused(...missing)
  return accepted({ charges, paid: asked.packages.map((one) => ({ package: one.one.number, weight: one.actual })) })
}
