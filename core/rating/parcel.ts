import type { Decimal } from "decimal.js"
import { money } from "../money/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "../refusal/index.ts"
import { massIn } from "../units/index.ts"
import { billedWeight, lengthAndGirth } from "./billedWeight.ts"
import { type Charge, lessShare, listPrice, percent, type RatedPackage, type RateRequest } from "./charge.ts"
import type { Charged } from "./rate.ts"
import { surchargeReason } from "./surcharge.ts"
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

function surcharges(tariff: ParcelTariff, request: RateRequest, one: RatedPackage, weight: Billed): Charge[] {
  const { weightUnit, lengthUnit, currency } = tariff
  const facts = { weight: massIn(one.weight, weightUnit), weightUnit, longest: weight.edges[0], lengthUnit }
  return tariff.surcharges.flatMap(({ code, amount, discount, when }): Charge[] => {
    const why = surchargeReason(when, request, facts)
    if (!why) return []
    const list = listPrice(amount, currency)
    return [{ code, package: one.number, list, contract: lessShare(list, discount), why }]
  })
}
