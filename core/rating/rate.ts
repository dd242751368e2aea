import { Decimal } from "decimal.js"
import { type Money, sumMoney } from "../money/index.ts"
import { type Outcome, type Reason, reason } from "../refusal/index.ts"
import { fuelOn, type Service, type Tariff, zoneOf } from "../tariff/index.ts"
import { type Arrival, arrivalOf } from "./arrival.ts"
import { type Charge, lineAmount, percent } from "./charge.ts"
import { type Situation, whyHolds } from "./conditions.ts"
import { floorLength } from "./floor.ts"
import { type Measured, measure } from "./measures.ts"
import { type Base, type Paid, type Pricing, total } from "./prices/base.ts"
import { byBox } from "./prices/byBox.ts"
import { byClass } from "./prices/byClass.ts"
import { byMeasure } from "./prices/byMeasure.ts"
import { byUnit } from "./prices/byUnit.ts"
import { byWay } from "./prices/byWay.ts"
import { byWeight } from "./prices/byWeight.ts"
import type { Payer, RateRequest } from "./request.ts"
import { coverRefused, goodsRefused, outOfReach, packagesRefused, wishesRefused } from "./suitability.ts"
import { surcharges } from "./surcharges.ts"

export interface Rate {
  readonly zone: string
  readonly packages: readonly Measured[]
  /** The weights that the base charges were calculated at. */
  readonly paid: readonly Paid[]
  readonly charges: readonly Charge[]
  /** Sums of the charges; what another pays for is in them anyway. */
  readonly list: Money
  readonly contract: Money
  readonly payer: Payer
  readonly arrival: Arrival
}

export type RateAnswer =
  | { readonly ok: true; readonly rate: Rate }
  | { readonly ok: false; readonly reasons: readonly Reason[] }

/**
 * The price and arrival of a shipment by one service of a tariff, charge by charge with the reason for each, or every
 * reason why the service can't take it. Base charges by the service's kind of price → contract discount → least net
 * charge → surcharges with their own discounts → fuel on the charges that the service names → taxes. Every line is
 * rounded as the tariff says; the totals are sums of the rounded lines. Never throws for a tariff that its schema
 * accepts.
 */
export function rateShipment(tariff: Tariff, service: Service, request: RateRequest): RateAnswer {
  const { shipTo, packages } = request
  const there = { from: request.from, to: shipTo, distance: request.distance ?? null }
  const way = service.returns ? { ...there, from: shipTo, to: request.from } : there
  const chart = tariff.charts[service.chart]
  const found = chart ? zoneOf(chart, way) : null
  const zone = found !== null && service.zones.includes(found) ? found : null
  const refusals = [
    ...outOfTime(tariff, request),
    ...outOfReach(tariff, service, request),
    ...(zone === null ? [noZone(service, tariff, request, found)] : []),
    ...(packages.length === 0 ? [reason("rate.no-packages")] : []),
    ...packagesRefused(service, packages),
    ...goodsRefused(service, request),
    ...wishesRefused(service, request),
    ...coverRefused(service, packages),
  ]
  const arrival = zone === null ? null : arrivalOf(tariff, service, zone, request)
  if (arrival && !arrival.ok) refusals.push(...arrival.reasons)
  const fuel = service.fuel ? fuelOn(tariff.fuel[service.fuel.table] ?? { weeks: [] as never }, request.shipDate) : null
  if (service.fuel && !fuel) refusals.push(reason("rate.no-fuel", { table: service.fuel.table, day: request.shipDate }))
  if (refusals.length > 0 || zone === null || !arrival?.ok) return { ok: false, reasons: once(refusals) }

  const plain: Situation = { tariff, service, request, zone, packages: [], one: null, floor: new Decimal(0) }
  const measured = packages.map((one) =>
    measure(one, service, (facts) => {
      const situation = { ...plain, one: { ...facts, sizeClass: null } }
      return service.sizeClasses.find((sizeClass) => whyHolds(sizeClass.when, situation)) ?? null
    }),
  )
  const asked: Pricing = { tariff, service, price: service.price, zone, request, packages: measured }
  const base = price(asked)
  if (!base.ok) return { ok: false, reasons: once(base.reasons) }
  const situation = { ...plain, packages: measured, floor: floorOf(service, measured) }
  const extra = surcharges(situation, base.value.charges, total(base.value.paid.map((one) => one.weight)))
  if (!extra.ok) return { ok: false, reasons: once(extra.reasons) }
  const carried = [...base.value.charges, ...extra.value]
  const fuelled = fuel && service.fuel ? [...carried, ...fuelCharge(tariff, service.fuel.on, fuel, carried)] : carried
  const charges = [...fuelled, ...taxCharges(tariff, service, shipTo.country, fuelled)]
  const sum = (side: "list" | "contract") =>
    sumMoney(
      charges.map((charge) => charge[side]),
      tariff.currency,
    )
  return {
    ok: true,
    rate: {
      zone,
      packages: measured,
      paid: base.value.paid,
      charges,
      list: sum("list"),
      contract: sum("contract"),
      payer: request.payer ?? "shipper",
      arrival: arrival.value,
    },
  }
}

/** The base charges by the kind of price that the service has. */
function price(asked: Pricing): Outcome<Base> {
  const { price } = asked
  switch (price.by) {
    case "weight":
      return byWeight({ ...asked, price })
    case "box":
      return byBox({ ...asked, price })
    case "unit":
      return byUnit({ ...asked, price })
    case "class":
      return byClass({ ...asked, price })
    case "measure":
      return byMeasure({ ...asked, price })
    case "way":
      return byWay({ ...asked, price })
  }
}

function outOfTime({ validFrom, validTo }: Tariff, { shipDate }: RateRequest): Reason[] {
  if (shipDate < validFrom) return [reason("rate.not-yet-valid", { from: validFrom, day: shipDate })]
  if (validTo !== null && shipDate > validTo) return [reason("rate.no-longer-valid", { to: validTo, day: shipDate })]
  return []
}

function noZone(service: Service, tariff: Tariff, request: RateRequest, found: string | null): Reason {
  const { distance } = request
  const shipTo = service.returns ? request.from : request.shipTo
  if (!service.reach.countries.includes(shipTo.country)) return reason("rate.country", { country: shipTo.country })
  if (tariff.charts[service.chart]?.by === "distance" && !distance)
    return reason("rate.no-distance", { postalCode: shipTo.postalCode })
  if (found !== null) return reason("rate.zone-not-served", { zone: found })
  return shipTo.country === tariff.country
    ? reason("rate.no-zone", { postalCode: shipTo.postalCode })
    : reason("rate.country", { country: shipTo.country })
}

/** Length of floor in the service's unit, where a condition of it may ask. */
function floorOf(service: Service, packages: readonly Measured[]): Decimal {
  const pallets = packages.filter((one) => one.one.handling === "pallet").map(({ one }) => one)
  if (pallets.length === 0 || service.price.by !== "class") return new Decimal(0)
  const inches = floorLength(pallets, service.price.trailer)
  return service.lengthUnit === "in" ? inches : inches.mul("2.54")
}

/** Fuel on the sum of the charges that the service names; no line where that comes to nothing. */
function fuelCharge(
  tariff: Tariff,
  on: readonly string[],
  { share, since, price }: { share: string; since: string; price: string | null },
  charges: readonly Charge[],
): Charge[] {
  const named = charges.filter((charge) => on.includes(charge.code))
  const sum = (side: "list" | "contract") => total(named.map((charge) => charge[side].amount))
  const list = lineAmount(tariff, sum("list").mul(share))
  const contract = lineAmount(tariff, sum("contract").mul(share))
  const why = reason(price === null ? "why.fuel" : "why.fuel-price", {
    share: percent(share),
    of: sum("contract").toFixed(2),
    since,
    price: price ?? "",
  })
  return list.amount.isZero() && contract.amount.isZero()
    ? []
    : [{ code: "fuel", package: null, list, contract, why: [why] }]
}

/** Each tax that is due for the country, on the sum of all charges before taxes. */
function taxCharges(tariff: Tariff, service: Service, country: string, charges: readonly Charge[]): Charge[] {
  return service.taxes.flatMap((name) => {
    const tax = tariff.taxes[name]
    if (!tax || (tax.countries.length > 0 && !tax.countries.includes(country))) return []
    const sum = (side: "list" | "contract") => total(charges.map((charge) => charge[side].amount))
    const why = reason("why.tax", { name, share: percent(tax.share), of: sum("contract").toFixed(2) })
    return [
      {
        code: "tax",
        package: null,
        list: lineAmount(tariff, sum("list").mul(tax.share)),
        contract: lineAmount(tariff, sum("contract").mul(tax.share)),
        why: [why],
      },
    ]
  })
}

/** Each reason once: a country that is neither served nor in the zone chart is one refusal, not two. */
const once = (reasons: readonly Reason[]): Reason[] => [
  ...new Map(reasons.map((one) => [JSON.stringify([one.code, one.values]), one])).values(),
]
