import { Decimal } from "decimal.js"
import { accepted, type Outcome, type Reason, reason, refused } from "../../refusal/index.ts"
import { figureFor } from "../../tariff/index.ts"
import type { Charge } from "../charge.ts"
import type { Measured } from "../measures.ts"
import { type Base, baseCharge, type Paid, type Pricer, type PricingBy, total, whyBilled } from "./base.ts"

type Asked = PricingBy<"weight">

/**
 * A table of weight and zone: each package at its billed weight, or the shipment at the sum of them. Packages that
 * together are heavy enough are priced together per 100 units of weight, always or where that costs less
 * (hundredweight).
 */
export const byWeight: Pricer<"weight"> = (asked) => {
  const single = asked.price.per === "shipment" ? together(asked) : oneByOne(asked)
  const joined = perHundred(asked)
  if (!joined) return single
  if (!single.ok || asked.price.hundredweight?.choose === "always") return accepted(joined)
  return accepted(contractOf(joined).lt(contractOf(single.value)) ? joined : single.value)
}

function oneByOne(asked: Asked): Outcome<Base> {
  const charges: Charge[] = []
  const missing: Reason[] = []
  for (const one of asked.packages) {
    const found = priceAt(asked, one.billed)
    if (!found) missing.push(noPrice(asked, one.one.number, one.billed))
    else
      charges.push(
        baseCharge(
          asked,
          one.one.number,
          found.price,
          whyZone(asked.zone),
          whyBilled(asked.service, one),
          ...found.why,
        ),
      )
  }
  return missing.length > 0 ? refused(...missing) : accepted({ charges, paid: paidEach(asked.packages) })
}

function together(asked: Asked): Outcome<Base> {
  const weight = total(asked.packages.map((one) => one.billed))
  const found = priceAt(asked, weight)
  if (!found) return refused(noPrice(asked, null, weight))
  const why = reason("why.sum", { billed: weight.toString(), unit: asked.service.weighing.unit })
  const charge = baseCharge(
    asked,
    null,
    found.price,
    whyZone(asked.zone),
    ...asked.packages.map((one) => whyBilled(asked.service, one)),
    why,
    ...found.why,
  )
  return accepted({ charges: [charge], paid: [{ package: null, weight }] })
}

/** The price at a weight: the first row that reaches it, or the last one and so much for each started step beyond. */
function priceAt({ price, service, zone }: Asked, weight: Decimal) {
  const column = service.zones.indexOf(zone) + 1
  const row = price.rows.find(([upTo]) => weight.lte(upTo))
  if (row) return row[column] === undefined ? null : { price: new Decimal(row[column] as string), why: [] }
  const last = price.rows.at(-1)
  const rate = price.beyond && figureFor(price.beyond.rate, zone)
  if (!price.beyond || rate === null || last?.[column] === undefined) return null
  const steps = weight.sub(last[0]).div(price.beyond.step).ceil()
  return {
    price: new Decimal(last[column] as string).add(steps.mul(rate as string)),
    why: [
      reason("why.beyond", {
        last: last[0],
        steps: steps.toString(),
        step: price.beyond.step,
        rate: rate as string,
        unit: service.weighing.unit,
      }),
    ],
  }
}

/** Priced together per 100 units of weight; null where the shipment is not for it. */
function perHundred(asked: Asked): Base | null {
  const rule = asked.price.hundredweight
  if (!rule || asked.packages.length < rule.leastPieces) return null
  const each = asked.packages.map((one) => Decimal.max(one.billed, rule.leastEach))
  const weight = total(each)
  if (weight.lt(rule.leastTotal)) return null
  const column = asked.service.zones.indexOf(asked.zone) + 1
  const row = rule.rows.filter(([atLeast]) => weight.gte(atLeast)).at(-1)
  const rate = row?.[column]
  if (row === undefined || rate === undefined) return null
  const why = reason("why.hundredweight", {
    weight: weight.toString(),
    unit: asked.service.weighing.unit,
    rate,
    from: row[0],
    pieces: asked.packages.length,
    leastEach: rule.leastEach,
  })
  return {
    charges: [baseCharge(asked, null, weight.mul(rate).div(100), whyZone(asked.zone), why)],
    paid: [{ package: null, weight }],
  }
}

export const whyZone = (zone: string) => reason("why.zone", { zone })

const paidEach = (packages: readonly Measured[]): Paid[] =>
  packages.map((one) => ({ package: one.one.number, weight: one.billed }))

const contractOf = (base: Base): Decimal => total(base.charges.map((charge) => charge.contract.amount))

const noPrice = ({ service }: Asked, number: number | null, weight: Decimal) =>
  reason(number === null ? "rate.no-price-total" : "rate.no-price", {
    package: number ?? "",
    weight: weight.toString(),
    unit: service.weighing.unit,
  })
