import type { Decimal } from "decimal.js"
import { zip3 } from "../address/index.ts"
import { money } from "../money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import { massIn } from "../units/index.ts"
import { billedWeight, lengthAndGirth } from "./billedWeight.ts"
import {
  type Charge,
  lessShare,
  listPrice,
  percent,
  type RatedPackage,
  type RateRequest,
  ratedAsResidential,
} from "./charge.ts"
import type { Charged } from "./rate.ts"
import type { ParcelTariff } from "./tariff.ts"

type Billed = Charged["billed"][number]

/** Why a parcel service can't take the packages: pallets, weight, length, girth, another box than the carrier's own. */
export function parcelRefusals(tariff: ParcelTariff, packages: readonly RatedPackage[]): Reason[] {
  return packages.flatMap((one) => {
    if (one.handling === "pallet") return [reason("rate.pallet", { package: one.number })]
    const { limits, weightUnit, lengthUnit } = tariff
    const measured = lengthAndGirth(one.size, lengthUnit)
    const facts: [string, Decimal, string, string][] = [
      ["rate.over-weight", massIn(one.weight, weightUnit), limits.weight, weightUnit],
      ["rate.over-length", measured.length, limits.length, lengthUnit],
      ["rate.over-girth", measured.lengthAndGirth, limits.lengthAndGirth, lengthUnit],
    ]
    const over = facts
      .filter(([, figure, limit]) => figure.gt(limit))
      .map(([code, figure, limit, unit]) =>
        reason(code, { package: one.number, figure: figure.toDecimalPlaces(1).toString(), limit, unit }),
      )
    if (tariff.flatRate && !(one.packaging && one.packaging in tariff.flatRate))
      over.push(reason("rate.own-box-only", { package: one.number, boxes: Object.keys(tariff.flatRate).join(", ") }))
    return over
  })
}

/** The charges of each package by itself; refuses a billed weight that the table has no row for. */
export function parcelCharges(tariff: ParcelTariff, zone: string, request: RateRequest): Outcome<Charged> {
  const charges: Charge[] = []
  const billed: Billed[] = []
  for (const one of request.packages) {
    const weight = { package: one.number, ...billedWeight(one.weight, one.size, tariff) }
    const base = tariff.flatRate ? boxCharge(tariff, one) : baseCharge(tariff, zone, one.number, weight)
    if (!base) return refused(reason("rate.no-price", { package: one.number, weight: weight.billed.toString() }))
    billed.push(weight)
    charges.push(base, ...surcharges(tariff, request, one, weight))
  }
  return accepted({ billed, charges })
}

function baseCharge(tariff: ParcelTariff, zone: string, number: number, weight: Billed): Charge | null {
  const column = tariff.zones.indexOf(zone) + 1
  const row = tariff.rows.find(([upTo]) => weight.billed.lte(upTo))
  const price = row?.[column]
  if (price === undefined) return null
  return discounted(tariff, number, price, {
    zone,
    unit: tariff.weightUnit,
    billed: weight.billed.toString(),
    actual: weight.actual.toString(),
    dimensional: weight.dimensional?.toString() ?? "",
    edges: weight.edges.join(" × "),
    divisor: tariff.dimension.divisor,
  })
}

/** One price for the carrier's own box, whatever its weight and zone. */
function boxCharge(tariff: ParcelTariff, one: RatedPackage): Charge | null {
  const price = tariff.flatRate?.[one.packaging ?? ""]
  return price === undefined ? null : discounted(tariff, one.number, price, { box: one.packaging ?? "" })
}

function discounted(tariff: ParcelTariff, number: number, price: string, facts: Record<string, string>): Charge {
  const list = listPrice(price, tariff.currency)
  const contract = lessShare(list, tariff.discount)
  const atMinimum = contract.amount.lt(tariff.minimumNet)
  const code = facts.box ? "charge.box" : atMinimum ? "charge.base.minimum" : "charge.base"
  return {
    code: "base",
    package: number,
    list,
    contract: atMinimum ? money(tariff.minimumNet, tariff.currency) : contract,
    why: reason(code, { ...facts, discount: percent(tariff.discount), minimum: tariff.minimumNet }),
  }
}

function surcharges(tariff: ParcelTariff, { shipTo }: RateRequest, one: RatedPackage, weight: Billed): Charge[] {
  const charges: Charge[] = []
  for (const { code, amount, discount, when } of tariff.surcharges) {
    const why = ((): Reason | null => {
      switch (when.fact) {
        case "residential":
          if (!ratedAsResidential(shipTo)) return null
          return reason(shipTo.kind === "unknown" ? "charge.residential.unconfirmed" : "charge.residential")
        case "weight-over":
          return massIn(one.weight, tariff.weightUnit).gt(when.figure)
            ? reason("charge.weight-over", { limit: when.figure, unit: tariff.weightUnit })
            : null
        case "longest-over":
          return weight.edges[0].gt(when.figure)
            ? reason("charge.longest-over", {
                edge: weight.edges[0].toString(),
                limit: when.figure,
                unit: tariff.lengthUnit,
              })
            : null
        case "postal-area":
          return shipTo.country === "US" && when.zip3.includes(zip3(shipTo.postalCode))
            ? reason("charge.postal-area", { area: zip3(shipTo.postalCode) })
            : null
        case "liftgate":
          return null
      }
    })()
    if (!why) continue
    const list = listPrice(amount, tariff.currency)
    charges.push({ code, package: one.number, list, contract: lessShare(list, discount), why })
  }
  return charges
}
