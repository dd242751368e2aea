import type { Address } from "core/address/index.ts"
import { moneyText } from "core/money/index.ts"
import type { RatedPackage, RateRequest } from "core/rating/index.ts"
import { type Rate, rateShipment } from "core/rating/index.ts"
import { type Service, type Tariff, type TariffDocument, tariffSchema } from "core/tariff/index.ts"
import { mass, size } from "core/units/index.ts"

/** For tests: tariffs small enough to compute by hand. Nothing in them is anybody's price. */

type ServiceDocument = TariffDocument["services"][number]

export const parcelService: ServiceDocument = {
  code: "GRD",
  name: "Ground",
  mode: "parcel",
  chart: "home",
  zones: ["2", "5"],
  lengthUnit: "in",
  weighing: { unit: "lb", steps: [{ upTo: null, step: "1" }] },
  dimensional: { step: "1", rounding: "up", divisor: "139" },
  limits: { weight: "150", length: "108", lengthAndGirth: "165" },
  price: {
    by: "weight",
    per: "package",
    rows: [
      ["1", "9.00", "11.00"],
      ["10", "14.25", "19.95"],
      ["29", "25.55", "38.05"],
      ["150", "90.00", "140.00"],
    ],
  },
  discounts: [["0", "0.3"]],
  leastNet: "7.50",
  surcharges: [
    {
      code: "residential",
      amount: { basis: "package", figure: "5.95" },
      discount: "0.5",
      when: { fact: "residential" },
    },
  ],
  fuel: { table: "road", on: ["base", "residential"] },
  reach: {
    countries: ["US"],
    statesNotServed: ["AK", "HI"],
    business: true,
    residential: true,
    postBox: false,
    military: false,
  },
  goods: { handling: "parcel", dangerous: "none" },
  cover: { included: "100", most: "5000" },
  billing: { freight: ["shipper"] },
  transit: { count: "business", days: { "2": 1, "5": 3 }, by: "17:00" },
}

export const freightService: ServiceDocument = {
  ...parcelService,
  code: "LTL",
  name: "Less than truckload",
  mode: "freight",
  zones: ["5"],
  dimensional: null,
  limits: { total: "12000", pieces: 6, length: "96", height: "84" },
  price: {
    by: "class",
    breaks: ["0", "500", "1000"],
    rates: { "5": { "100": ["20.00", "17.00", "14.00"], "70": ["15.00", "12.00", "9.00"] } },
    minimum: { "5": "110.00" },
    classFrom: "item",
    fak: [],
  },
  discounts: [["0", "0.5"]],
  leastNet: "60.00",
  surcharges: [],
  fuel: { table: "diesel", on: ["base"] },
  goods: { handling: "pallet", dangerous: "all" },
  cover: { included: "0", most: "0" },
  transit: { count: "business", days: { "5": 3 }, by: "17:00" },
}

const document = (service: ServiceDocument): TariffDocument => ({
  format: "carrier-tariff/1",
  carrier: "TEST",
  name: "Test carrier",
  currency: "USD",
  country: "US",
  validFrom: "2026-01-01",
  holidays: ["2026-11-26"],
  areas: { remote: [["US", "821", "821"]] },
  charts: {
    home: {
      by: "postal",
      origins: [
        {
          from: ["US", "558", "558"],
          ranges: [
            ["US", "553", "558", "2"],
            ["US", "800", "829", "5"],
            ["US", "995", "999", "9"],
          ],
        },
      ],
    },
    abroad: { by: "postal", origins: [{ from: ["US", "", ""], ranges: [["DE", "", "", "E"]] }] },
    round: { by: "distance", unit: "mi", bands: [["50", "near"]] },
  },
  fuel: { road: { weeks: [["2026-01-05", "0.15"]] }, diesel: { weeks: [["2026-01-05", "0.3"]] } },
  taxes: { vat: { share: "0.19", countries: ["DE"] } },
  services: [service],
})

/** A tariff of one service, made of a sample and what is to be different in it. */
export function tariffOf(
  base: ServiceDocument,
  change: Partial<ServiceDocument> = {},
  around: Partial<TariffDocument> = {},
): { tariff: Tariff; service: Service } {
  const tariff = tariffSchema.parse({ ...document({ ...base, ...change }), ...around })
  return { tariff, service: tariff.services[0] as Service }
}

export const denver: Address = {
  company: "Elk Run",
  attention: "",
  street: "14 Growler Row",
  street2: "",
  city: "Denver",
  state: "CO",
  postalCode: "80205",
  country: "US",
  phone: "",
  kind: "business",
}
export const hamburg: Address = {
  ...denver,
  street: "Speicherweg 4",
  city: "Hamburg",
  state: "",
  postalCode: "20457",
  country: "DE",
}

/** 9.5 lb, 800 in³: bills 10 lb. */
export const small: RatedPackage = { number: 1, weight: mass("9.5", "lb"), size: size(10, 10, 8, "in") }
/** 48 × 40 × 50 in, 55.56 ft³. */
export const pallet = (pounds: string, more: Partial<RatedPackage> = {}): RatedPackage => ({
  number: 1,
  weight: mass(pounds, "lb"),
  size: size(48, 40, 50, "in"),
  handling: "pallet",
  ...more,
})

export type Asked = Partial<Omit<RateRequest, "shipTo">> & { readonly shipTo?: Partial<Address> }

export const requestOf = (packages: readonly RatedPackage[], asked: Asked = {}): RateRequest => ({
  from: { country: "US", postalCode: "55802" },
  shipDate: "2026-11-24",
  ...asked,
  shipTo: { ...denver, ...asked.shipTo },
  packages: packages.map((one, index) => ({ ...one, number: index + 1 })),
})

/** The rate, or an error that names the reasons. */
export function rated(of: ReturnType<typeof tariffOf>, packages: readonly RatedPackage[], asked: Asked = {}): Rate {
  const answer = rateShipment(of.tariff, of.service, requestOf(packages, asked))
  if (!answer.ok) throw new Error(JSON.stringify(answer.reasons))
  return answer.rate
}

export const refusals = (
  of: ReturnType<typeof tariffOf>,
  packages: readonly RatedPackage[],
  asked: Asked = {},
): string[] => {
  const answer = rateShipment(of.tariff, of.service, requestOf(packages, asked))
  return answer.ok ? [] : answer.reasons.map((one) => one.code)
}

/** Charge lines as code and contract amount. */
export const lines = (rate: Rate): [string, string][] =>
  rate.charges.map((charge) => [charge.code, moneyText(charge.contract).amount])
export const whyOf = (rate: Rate, code: string): string[] =>
  rate.charges.find((charge) => charge.code === code)?.why.map((one) => one.code) ?? []
