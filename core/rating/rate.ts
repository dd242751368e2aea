import type { Decimal } from "decimal.js"
import { type Address, isPostBox, zip3 } from "../address/index.ts"
import { addBusinessDays, type LocalDate, type WorkingDays } from "../calendar/index.ts"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type Mass, massIn, type Size } from "../units/index.ts"
import { type BilledWeight, billedWeight, lengthAndGirth } from "./billedWeight.ts"
import { type Tariff, type ZoneChart, zoneOf } from "./tariff.ts"

export interface RatedPackage {
  readonly number: number
  readonly weight: Mass
  readonly size: Size
}

export interface RateRequest {
  readonly shipTo: Address
  readonly packages: readonly RatedPackage[]
  readonly shipDate: LocalDate
  /** Days on which the carrier moves and delivers goods. */
  readonly holidays: ReadonlySet<LocalDate>
}

/** One charge line; `package` is null for a charge on the whole shipment. List is before discount, contract after. */
export interface Charge {
  readonly code: string
  readonly package: number | null
  readonly list: Money
  readonly contract: Money
  readonly why: Reason
}

export interface Rate {
  readonly zone: string
  readonly billed: readonly (BilledWeight & { package: number })[]
  readonly charges: readonly Charge[]
  readonly list: Money
  readonly contract: Money
  readonly arrival: { date: LocalDate; time: string; days: number }
}

export type RateAnswer =
  | { readonly ok: true; readonly rate: Rate }
  | { readonly ok: false; readonly reasons: readonly Reason[] }

/** An address that nobody has confirmed as a business is rated, and told to the carrier, as residential. */
export const ratedAsResidential = (address: Address): boolean => address.kind !== "business"

/**
 * The price and arrival of a shipment by one service, charge by charge with the reason for each, or why the service
 * can't take it. Each package is priced by itself: zone → table at the billed weight → contract discount → minimum
 * net charge → surcharges with their own discounts → fuel on the charges that the tariff names. Every charge line is
 * rounded half up to the minor unit; the totals are sums of the rounded lines.
 */
export function rateShipment(tariff: Tariff, chart: ZoneChart, request: RateRequest): RateAnswer {
  const { shipTo, packages } = request
  const refusals = unsuitable(tariff, shipTo)
  const zone = zoneOf(chart, zip3(shipTo.postalCode))
  if (zone === null || !tariff.zones.includes(zone))
    refusals.push(reason("rate.no-zone", { postalCode: shipTo.postalCode }))
  const billed = packages.map((one) => ({ package: one.number, ...billedWeight(one.weight, one.size, tariff) }))
  packages.forEach((one) => refusals.push(...overLimits(tariff, one)))
  if (packages.length === 0) refusals.push(reason("rate.no-packages"))
  if (refusals.length > 0 || zone === null) return { ok: false, reasons: refusals }

  const charges: Charge[] = []
  for (const [index, one] of packages.entries()) {
    const weight = billed[index] as (typeof billed)[number]
    const base = baseCharge(tariff, zone, one.number, weight)
    if (!base)
      return {
        ok: false,
        reasons: [reason("rate.no-price", { package: one.number, weight: weight.billed.toString() })],
      }
    charges.push(base, ...surcharges(tariff, shipTo, one, weight))
  }
  const fuel = fuelCharge(tariff, charges)
  if (fuel) charges.push(fuel)
  const total = (side: "list" | "contract") =>
    sumMoney(
      charges.map((charge) => charge[side]),
      tariff.currency,
    )
  const days = tariff.transit.days[zone] as number
  const working: WorkingDays = { holidays: request.holidays, saturday: tariff.transit.saturday }
  return {
    ok: true,
    rate: {
      zone,
      billed,
      charges,
      list: total("list"),
      contract: total("contract"),
      arrival: { date: addBusinessDays(request.shipDate, days, working), time: tariff.transit.by, days },
    },
  }
}

function unsuitable(tariff: Tariff, shipTo: Address): Reason[] {
  const { suitability } = tariff
  const reasons: Reason[] = []
  if (shipTo.country !== "US") reasons.push(reason("rate.country", { country: shipTo.country }))
  if (isPostBox(shipTo) && !suitability.postBox) reasons.push(reason("rate.post-box"))
  if (suitability.statesNotServed.includes(shipTo.state)) reasons.push(reason("rate.state", { state: shipTo.state }))
  if (shipTo.kind === "residential" && !suitability.residential) reasons.push(reason("rate.business-only"))
  if (shipTo.kind === "business" && !suitability.business) reasons.push(reason("rate.residential-only"))
  return reasons
}

function overLimits(tariff: Tariff, one: RatedPackage): Reason[] {
  const { limits } = tariff
  const measured = lengthAndGirth(one.size)
  const facts: [string, Decimal, string][] = [
    ["rate.over-weight", massIn(one.weight, "lb"), limits.weight],
    ["rate.over-length", measured.length, limits.length],
    ["rate.over-girth", measured.lengthAndGirth, limits.lengthAndGirth],
  ]
  return facts
    .filter(([, figure, limit]) => figure.gt(limit))
    .map(([code, figure, limit]) =>
      reason(code, { package: one.number, figure: figure.toDecimalPlaces(1).toString(), limit }),
    )
}

function baseCharge(tariff: Tariff, zone: string, number: number, weight: BilledWeight): Charge | null {
  const column = tariff.zones.indexOf(zone) + 1
  const row = tariff.rows.find(([upTo]) => weight.billed.lte(upTo))
  const price = row?.[column]
  if (price === undefined) return null
  const list = roundMoney(money(price, tariff.currency))
  const discounted = roundMoney({
    ...list,
    amount: list.amount.mul(money(1, tariff.currency).amount.sub(tariff.discount)),
  })
  const atMinimum = discounted.amount.lt(tariff.minimumNet)
  const why = reason(atMinimum ? "charge.base.minimum" : "charge.base", {
    zone,
    billed: weight.billed.toString(),
    actual: weight.actual.toString(),
    dimensional: weight.dimensional?.toString() ?? "",
    edges: weight.edges.join(" × "),
    divisor: tariff.dimension.divisor,
    discount: percent(tariff.discount),
    minimum: tariff.minimumNet,
  })
  return {
    code: "base",
    package: number,
    list,
    contract: atMinimum ? money(tariff.minimumNet, tariff.currency) : discounted,
    why,
  }
}

function surcharges(tariff: Tariff, shipTo: Address, one: RatedPackage, weight: BilledWeight): Charge[] {
  const charges: Charge[] = []
  for (const { code, amount, discount, when } of tariff.surcharges) {
    const why = ((): Reason | null => {
      switch (when.fact) {
        case "residential":
          if (!ratedAsResidential(shipTo)) return null
          return reason(shipTo.kind === "unknown" ? "charge.residential.unconfirmed" : "charge.residential")
        case "weight-over":
          return massIn(one.weight, "lb").gt(when.figure) ? reason("charge.weight-over", { limit: when.figure }) : null
        case "longest-over":
          return weight.edges[0].gt(when.figure)
            ? reason("charge.longest-over", { edge: weight.edges[0].toString(), limit: when.figure })
            : null
        case "postal-area":
          return when.zip3.includes(zip3(shipTo.postalCode))
            ? reason("charge.postal-area", { area: zip3(shipTo.postalCode) })
            : null
      }
    })()
    if (!why) continue
    const list = roundMoney(money(amount, tariff.currency))
    const contract = roundMoney({ ...list, amount: list.amount.sub(list.amount.mul(discount)) })
    charges.push({ code, package: one.number, list, contract, why })
  }
  return charges
}

function fuelCharge(tariff: Tariff, charges: readonly Charge[]): Charge | null {
  if (Number(tariff.fuel.share) === 0) return null
  const named = charges.filter((charge) => tariff.fuel.on.includes(charge.code))
  const on = (side: "list" | "contract") => {
    const sum = sumMoney(
      named.map((charge) => charge[side]),
      tariff.currency,
    )
    return { sum, fuel: roundMoney({ ...sum, amount: sum.amount.mul(tariff.fuel.share) }) }
  }
  const contract = on("contract")
  const why = reason("charge.fuel", { share: percent(tariff.fuel.share), of: contract.sum.amount.toFixed(2) })
  return { code: "fuel", package: null, list: on("list").fuel, contract: contract.fuel, why }
}

const percent = (share: string) => `${Number((Number(share) * 100).toFixed(4))} %`
