import { figureFor, type PriceBy } from "../../tariff/index.ts"
import type { Amount } from "./amounts.ts"
import { byClass } from "./byClass.ts"
import { byMeasure } from "./byMeasure.ts"
import { byUnit } from "./byUnit.ts"
import { byWeight } from "./byWeight.ts"
import { type Compiling, sumOf, type ZonePrice } from "./pricing.ts"

/** The base price of a service in a zone; null where it has none there. Services by way are priced by the lane. */
export function compileBase(asked: Compiling): ZonePrice | null {
  const { price } = asked.service
  switch (price.by) {
    case "weight":
      return byWeight(price, asked)
    case "box":
      return byBox(price, asked)
    case "unit":
      return byUnit(price, asked)
    case "class":
      return byClass(price, asked)
    case "measure":
      return byMeasure(price, asked)
    case "way":
      return null
  }
}

/** A base charge that is the same whatever the packages: of a vehicle of one's own. */
export const fixedBase =
  (amount: Amount, scale: number): ZonePrice =>
  ({ packages }) => ({
    charges: [amount],
    perPackage: false,
    weight: sumOf(packages, (one) => one.actual),
    weightScale: scale,
  })

function byBox({ boxes }: PriceBy<"box">, { zone, scale, amounts, charge }: Compiling): ZonePrice {
  const prices = new Map<string, Amount>()
  for (const [box, figures] of Object.entries(boxes)) {
    const figure = figureFor(figures, zone)
    if (figure !== null) prices.set(box, charge(amounts.lineOf(figure)))
  }
  return ({ packages }) => {
    const charges: Amount[] = []
    for (const { one } of packages) {
      const price = prices.get(one.packaging ?? "")
      if (!price) return null
      charges.push(price)
    }
    return { charges, perPackage: true, weight: sumOf(packages, (one) => one.actual), weightScale: scale }
  }
}
