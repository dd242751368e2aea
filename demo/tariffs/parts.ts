import type { Condition, OptionCode, TariffDocument } from "core/tariff/index.ts"
import Holidays from "date-holidays"
import { remote } from "./geography.ts"

export type ServiceDocument = TariffDocument["services"][number]
export type SurchargeDocument = NonNullable<ServiceDocument["surcharges"]>[number]

/** Public holidays that the demo's carriers keep. */
export const holidays = [
  ...new Set(
    [2026, 2027].flatMap((year) =>
      new Holidays("US")
        .getHolidays(year)
        .filter((day) => day.type === "public" && !/Columbus|Veterans|Juneteenth|Presidents|Washington/.test(day.name))
        .map((day) => day.date.slice(0, 10)),
    ),
  ),
].sort()

/** What all tariffs of the demo begin with. */
export const common = {
  format: "carrier-tariff/1" as const,
  currency: "USD",
  country: "US",
  validFrom: "2026-01-05",
  holidays,
  areas: { remote: remote.map((area): [string, string, string] => ["US", area, area]) },
}

export const everyone = { business: true, residential: true, postBox: false, military: false }
export const pounds = { unit: "lb" as const, steps: [{ upTo: null, step: "1" }] }
export const halfKilos = { unit: "kg" as const, steps: [{ upTo: null, step: "0.5" }] }
export const inches = (divisor: string, rounding: "up" | "nearest" = "up", threshold: string | null = null) => ({
  step: "1",
  rounding,
  divisor,
  threshold,
})

type Facts = Pick<SurchargeDocument, "discount" | "group">

/** A surcharge on each package, or on the shipment, for one fact. */
export const perPackage = (
  code: string,
  figure: string,
  when: Condition,
  { discount = "0", group = null }: Facts = {},
): SurchargeDocument => ({ code, amount: { basis: "package", figure }, discount, group, when })
export const perShipment = (code: string, figure: string, when: Condition, { discount = "0" }: Facts = {}) => ({
  ...perPackage(code, figure, when, { discount }),
  amount: { basis: "shipment" as const, figure },
})
export const asked = (option: OptionCode): Condition => ({ fact: "option", option })

/** More cover than is included, for every started 100; at least so much. */
export const moreCover = (figure: string, least: string): SurchargeDocument => ({
  code: "declared-value",
  amount: { basis: "value", figure, least },
  when: asked("declared-value"),
})
export const dryIce = (figure: string, least: string): SurchargeDocument => ({
  code: "dry-ice",
  amount: { basis: "dry-ice", figure, least },
  when: asked("dry-ice"),
})

/** Signatures exclude one another, and so do what becomes of goods that can't be delivered. */
export function options(...known: readonly OptionCode[]): NonNullable<ServiceDocument["options"]> {
  const pairs: [OptionCode, OptionCode][] = [
    ["signature", "signature-adult"],
    ["return-undeliverable", "abandon-undeliverable"],
    ["hold-at-location", "inside-delivery"],
    ["hold-at-location", "saturday"],
  ]
  return known.map((option) => ({
    option,
    excludes: pairs
      .filter((pair) => pair.includes(option))
      .map(([a, b]) => (a === option ? b : a))
      .filter((other) => known.includes(other)),
  }))
}

export const allPayers = { freight: ["shipper" as const, "receiver" as const, "third-party" as const] }
export const shipperOnly = { freight: ["shipper" as const] }

/** More for a home, or for an address that nobody confirmed as a business. */
export const residential = (figure: string, discount: string): SurchargeDocument =>
  perPackage("residential", figure, { fact: "residential" }, { discount })
