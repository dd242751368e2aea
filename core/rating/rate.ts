import { type Address, isMilitary, isPostBox } from "../address/index.ts"
import { addBusinessDays, type WorkingDays } from "../calendar/index.ts"
import { sumMoney } from "../money/index.ts"
import { type Outcome, type Reason, reason } from "../refusal/index.ts"
import type { BilledWeight } from "./billedWeight.ts"
import { type Charge, fuelCharge, type Rate, type RateRequest } from "./charge.ts"
import type { FreightClass } from "./density.ts"
import { freightCharges, freightRefusals } from "./freight.ts"
import { parcelCharges, parcelRefusals } from "./parcel.ts"
import { type Tariff, type ZoneChart, zoneOf } from "./tariff.ts"

export type RateAnswer =
  | { readonly ok: true; readonly rate: Rate }
  | { readonly ok: false; readonly reasons: readonly Reason[] }

/** What a kind of tariff makes of the packages, before fuel. */
export interface Charged {
  readonly billed: readonly (BilledWeight & { package: number; freightClass?: FreightClass })[]
  readonly charges: readonly Charge[]
}

/**
 * The price and arrival of a shipment by one service, charge by charge with the reason for each, or why the service
 * can't take it. A parcel is priced by itself: zone → table at the billed weight → contract discount → minimum net
 * charge → surcharges with their own discounts. Freight is priced together, by class and weight break. Then fuel on
 * the charges that the tariff names. Every charge line is rounded half up to the minor unit; the totals are sums of
 * the rounded lines.
 */
export function rateShipment(tariff: Tariff, chart: ZoneChart, request: RateRequest): RateAnswer {
  const { shipTo, packages } = request
  const refusals = unsuitable(tariff, shipTo, request.dangerous ?? [])
  const zone = zoneOf(chart, shipTo)
  if (zone === null || !tariff.zones.includes(zone))
    refusals.push(
      shipTo.country === "US"
        ? reason("rate.no-zone", { postalCode: shipTo.postalCode })
        : reason("rate.country", { country: shipTo.country }),
    )
  refusals.push(...(tariff.kind === "freight" ? freightRefusals : parcelRefusals)(tariff as never, packages))
  if (packages.length === 0) refusals.push(reason("rate.no-packages"))
  if (refusals.length > 0 || zone === null) return { ok: false, reasons: once(refusals) }

  const priced: Outcome<Charged> =
    tariff.kind === "freight" ? freightCharges(tariff, zone, request) : parcelCharges(tariff, zone, request)
  if (!priced.ok) return priced
  const { billed, charges } = priced.value
  const fuel = fuelCharge(tariff, charges)
  const all = fuel ? [...charges, fuel] : charges
  const total = (side: "list" | "contract") =>
    sumMoney(
      all.map((charge) => charge[side]),
      tariff.currency,
    )
  const days = tariff.transit.days[zone] as number
  const working: WorkingDays = { holidays: request.holidays, saturday: tariff.transit.saturday }
  return {
    ok: true,
    rate: {
      zone,
      billed,
      charges: all,
      list: total("list"),
      contract: total("contract"),
      arrival: { date: addBusinessDays(request.shipDate, days, working), time: tariff.transit.by, days },
    },
  }
}

function unsuitable({ suitability }: Tariff, shipTo: Address, dangerous: readonly string[]): Reason[] {
  const reasons: Reason[] = []
  if (!suitability.countries.includes(shipTo.country)) reasons.push(reason("rate.country", { country: shipTo.country }))
  if (isPostBox(shipTo) && !suitability.postBox) reasons.push(reason("rate.post-box"))
  if (isMilitary(shipTo) && !suitability.postBox) reasons.push(reason("rate.military"))
  if (shipTo.country === "US" && suitability.statesNotServed.includes(shipTo.state))
    reasons.push(reason("rate.state", { state: shipTo.state }))
  if (shipTo.kind === "residential" && !suitability.residential) reasons.push(reason("rate.business-only"))
  if (shipTo.kind === "business" && !suitability.business) reasons.push(reason("rate.residential-only"))
  if (dangerous.length > 0 && !suitability.dangerousGoods)
    reasons.push(reason("rate.dangerous", { unNumbers: dangerous.join(", ") }))
  return reasons
}

/** Each reason once: a country that is neither served nor in the zone chart is one refusal, not two. */
const once = (reasons: readonly Reason[]): Reason[] => [
  ...new Map(reasons.map((one) => [JSON.stringify([one.code, one.values]), one])).values(),
]
