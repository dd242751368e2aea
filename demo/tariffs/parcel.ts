import type { TariffDocument } from "core/tariff/index.ts"
import {
  byZone,
  countryChart,
  fuelWeeks,
  halfKiloRows,
  homeZones,
  offshore,
  postalChart,
  poundRows,
} from "./geography.ts"
import {
  allPayers,
  asked,
  common,
  dryIce,
  everyone,
  inches,
  moreCover,
  options,
  perPackage,
  perShipment,
  pounds,
  residential,
  type ServiceDocument,
  shipperOnly,
} from "./parts.ts"

/** Invented parcel carriers at home. Amounts come from a formula of our own; the structure is that of the trade. */

const area = (figure: string) => perPackage("area", figure, { fact: "area", area: "remote" })
const handling = (heavy: [string, string], long: [string, string] | null, discount: string) => [
  perPackage("handling", heavy[1], { fact: "weight-over", figure: heavy[0] }, { discount, group: "size" }),
  ...(long
    ? [
        perPackage(
          "handling-long",
          long[1],
          { fact: "longest-over" as const, figure: long[0] },
          { discount, group: "size" },
        ),
      ]
    : []),
]
const large = (figure: string, discount: string) =>
  perPackage("large", figure, { fact: "size-class", sizeClass: "large" }, { discount, group: "size" })
const largeClass = (girth: string, leastWeight: string) => [
  { code: "large", when: { fact: "girth-over" as const, figure: girth }, leastWeight },
]
const signatures = (plain: string, adult: string) => [
  perPackage("signature", plain, asked("signature")),
  perPackage("signature-adult", adult, asked("signature-adult")),
]
const parcels = {
  handling: "parcel" as const,
  dangerous: "limited-quantity" as const,
  categories: [{ category: "alcohol" as const, needs: ["receiver-licence" as const, "adult-signature" as const] }],
}
const noDangerous = { handling: "parcel" as const, dangerous: "none" as const }
/** Due for a shipment that is fetched: not for one that is brought to a place of the carrier's. */
const fetched = (figure: string) => perShipment("collection", figure, { not: asked("drop-off") })

/** A place where packages are brought: code, name, street, city with state and postal code, until when. */
const place = (
  code: string,
  name: string,
  street: string,
  [city, state, postalCode]: [string, string, string],
  until: string,
) => ({ code, name, street, city, state, postalCode, country: "US", until })

const states = (...more: string[]) => ["GU", "AS", "MP", ...more]

const home = {
  mode: "parcel" as const,
  chart: "home",
  zones: homeZones,
  lengthUnit: "in" as const,
  weighing: pounds,
  fuel: null,
}
const weekdays = { count: "business" as const }

export const larkspur: TariffDocument = {
  ...common,
  carrier: "LARK",
  handover: {
    closing: { way: "one-barcode", told: true },
    booked: { fee: "12.50", until: "15:00", from: "08:00", to: "18:00", window: 90 },
    dropOff: [
      place("DLH1", "Larkspur at Canal Hardware", "24 Canal Street", ["Duluth", "MN", "55802"], "18:30"),
      place("DLH2", "Larkspur service center", "4100 Airpark Road", ["Duluth", "MN", "55811"], "20:00"),
      place("SUP1", "Larkspur at Tower Copy", "1204 Tower Avenue", ["Superior", "WI", "54880"], "18:00"),
      place("RNO1", "Larkspur service center", "700 Vassar Way", ["Reno", "NV", "89502"], "19:00"),
    ],
  },
  name: "Larkspur Parcel",
  charts: { home: postalChart(), canada: countryChart({ CA: "A" }) },
  fuel: { ground: fuelWeeks("0.1575"), air: fuelWeeks("0.185") },
  services: [
    {
      ...home,
      code: "LKG",
      name: "Larkspur Ground",
      dimensional: inches("139"),
      limits: { weight: "150", length: "108", lengthAndGirth: "165" },
      sizeClasses: largeClass("130", "90"),
      price: {
        by: "weight",
        per: "package",
        rows: poundRows(150, 11.2, 0.42, 0.11),
        hundredweight: {
          leastTotal: "200",
          leastEach: "20",
          leastPieces: 2,
          choose: "lower",
          rows: [
            ["200", ...homeZones.map((zone) => (42 + 6.4 * (Number(zone) - 2)).toFixed(2))],
            ["500", ...homeZones.map((zone) => (36.5 + 5.9 * (Number(zone) - 2)).toFixed(2))],
            ["1000", ...homeZones.map((zone) => (31 + 5.3 * (Number(zone) - 2)).toFixed(2))],
          ],
        },
      },
      discounts: [["0", "0.38"]],
      leastNet: "8.40",
      surcharges: [
        residential("5.95", "0.4"),
        ...handling(["70", "24.00"], ["48", "21.50"], "0.25"),
        large("78.00", "0.2"),
        area("4.30"),
        ...signatures("5.40", "7.20"),
        moreCover("1.20", "3.60"),
        perPackage("extra-handling", "12.00", asked("extra-handling")),
        perShipment("hold-at-location", "0", asked("hold-at-location")),
        perPackage("dangerous-goods", "18.50", { fact: "dangerous" }),
        {
          code: "peak",
          amount: { basis: "package", figure: "1.35" },
          when: { all: [{ fact: "residential" }, { fact: "season", from: "2026-11-30", until: "2027-01-09" }] },
        },
      ],
      fuel: { table: "ground", on: ["base", "residential", "handling", "handling-long", "large"] },
      reach: { ...everyone, countries: ["US"], statesNotServed: offshore },
      goods: parcels,
      options: options(
        "signature",
        "signature-adult",
        "hold-at-location",
        "declared-value",
        "extra-handling",
        "return-undeliverable",
        "abandon-undeliverable",
        "lower-emission",
        "counter-code",
        "drop-off",
      ),
      cover: { included: "100", most: "50000" },
      billing: allPayers,
      transit: { ...weekdays, days: byZone(homeZones, [1, 2, 2, 3, 4, 4, 5, 7]), by: "18:00" },
    },
    {
      ...home,
      code: "LKH",
      name: "Larkspur Home",
      dimensional: inches("139"),
      limits: { weight: "70", length: "108", lengthAndGirth: "165" },
      sizeClasses: largeClass("130", "90"),
      price: { by: "weight", per: "package", rows: poundRows(70, 13.9, 0.47, 0.12) },
      discounts: [["0", "0.35"]],
      leastNet: "9.10",
      surcharges: [
        ...handling(["50", "19.00"], ["48", "21.50"], "0.25"),
        large("78.00", "0.2"),
        area("5.60"),
        ...signatures("5.40", "7.20"),
        perPackage("appointment", "9.80", asked("appointment")),
        moreCover("1.20", "3.60"),
      ],
      fuel: { table: "ground", on: ["base", "handling", "handling-long", "large"] },
      reach: { ...everyone, business: false, countries: ["US"], statesNotServed: offshore },
      goods: noDangerous,
      options: options("signature", "signature-adult", "appointment", "declared-value", "return-undeliverable"),
      cover: { included: "100", most: "5000" },
      billing: shipperOnly,
      transit: {
        ...weekdays,
        days: byZone(homeZones, [1, 2, 2, 3, 4, 4, 5, 7]),
        by: "20:00",
        moves: [1, 2, 3, 4, 5, 6],
        delivers: [2, 3, 4, 5, 6],
      },
    },
    {
      ...home,
      code: "LKX",
      name: "Larkspur Express Two",
      dimensional: inches("139"),
      limits: { weight: "150", length: "108", lengthAndGirth: "165" },
      sizeClasses: largeClass("130", "90"),
      price: { by: "weight", per: "package", rows: poundRows(150, 26.5, 1.35, 0.24) },
      discounts: [["0", "0.44"]],
      leastNet: "16.50",
      surcharges: [
        residential("6.40", "0.4"),
        ...handling(["70", "26.00"], ["48", "23.00"], "0.25"),
        large("84.00", "0.2"),
        area("5.10"),
        ...signatures("5.40", "7.20"),
        moreCover("1.20", "3.60"),
        dryIce("0.80", "6.50"),
        perPackage("saturday", "16.00", asked("saturday")),
        perPackage("extra-handling", "12.00", asked("extra-handling")),
      ],
      fuel: { table: "air", on: ["base", "residential", "handling", "handling-long", "large", "area"] },
      reach: { ...everyone, countries: ["US"], statesNotServed: states() },
      goods: noDangerous,
      options: options(
        "signature",
        "signature-adult",
        "saturday",
        "hold-at-location",
        "declared-value",
        "extra-handling",
        "dry-ice",
        "return-undeliverable",
        "abandon-undeliverable",
      ),
      cover: { included: "100", most: "50000" },
      billing: allPayers,
      transit: { ...weekdays, days: byZone(homeZones, [2, 2, 2, 2, 2, 2, 2, 3]), by: "17:00" },
    },
    {
      ...home,
      code: "LKN",
      name: "Larkspur Noon",
      dimensional: inches("139"),
      limits: { weight: "150", length: "108", lengthAndGirth: "165" },
      sizeClasses: largeClass("130", "90"),
      price: {
        by: "weight",
        per: "shipment",
        rows: poundRows(150, 44, 2.05, 0.3),
        beyond: { step: "1", rate: "2.60" },
      },
      discounts: [
        ["0", "0.3"],
        ["150", "0.36"],
      ],
      leastNet: "29.00",
      surcharges: [
        residential("6.40", "0.3"),
        ...handling(["70", "26.00"], ["48", "23.00"], "0.25"),
        large("84.00", "0.2"),
        area("5.10"),
        ...signatures("0", "6.90"),
        moreCover("1.20", "3.60"),
        dryIce("0.80", "6.50"),
        perPackage("saturday", "18.00", asked("saturday")),
      ],
      fuel: { table: "air", on: ["base", "residential", "handling", "handling-long", "large", "area", "saturday"] },
      reach: { ...everyone, countries: ["US"], statesNotServed: states("PR", "VI") },
      goods: noDangerous,
      options: options("signature", "signature-adult", "saturday", "hold-at-location", "declared-value", "dry-ice"),
      cover: { included: "100", most: "50000" },
      billing: allPayers,
      transit: { ...weekdays, days: byZone(homeZones, [1, 1, 1, 1, 1, 1, 1, 2]), by: "12:00", cutOff: "16:30" },
    },
    {
      ...home,
      code: "LKR",
      name: "Larkspur Return",
      dimensional: inches("139"),
      limits: { weight: "70", length: "96", lengthAndGirth: "130" },
      price: { by: "weight", per: "package", rows: poundRows(70, 10.4, 0.42, 0.1) },
      discounts: [["0", "0.32"]],
      leastNet: "7.90",
      surcharges: handling(["50", "18.00"], ["48", "16.00"], "0.2"),
      fuel: { table: "ground", on: ["base", "handling"] },
      reach: { ...everyone, countries: ["US"], statesNotServed: offshore },
      goods: parcels,
      cover: { included: "100", most: "100" },
      billing: shipperOnly,
      returns: { paid: "when-scanned", validDays: 60 },
      transit: { ...weekdays, days: byZone(homeZones, [1, 2, 2, 3, 3, 4, 5, 6]), by: "18:00" },
    },
    {
      ...home,
      code: "LKC",
      name: "Larkspur Ground to Canada",
      chart: "canada",
      zones: ["A"],
      dimensional: inches("139"),
      limits: { weight: "150", length: "108", lengthAndGirth: "165" },
      price: {
        by: "weight",
        per: "package",
        rows: Array.from({ length: 150 }, (_, index) => [String(index + 1), (24.5 + 0.98 * index).toFixed(2)]),
      },
      discounts: [["0", "0.3"]],
      leastNet: "17.20",
      surcharges: [residential("6.20", "0.4"), ...signatures("5.40", "7.20"), moreCover("1.20", "3.60")],
      fuel: { table: "ground", on: ["base", "residential"] },
      reach: { ...everyone, countries: ["CA"] },
      goods: noDangerous,
      options: options("signature", "signature-adult", "declared-value", "return-undeliverable", "counter-code"),
      cover: { included: "100", most: "5000" },
      billing: { ...allPayers, duties: ["shipper", "receiver", "third-party"] },
      transit: { ...weekdays, days: { A: 4 }, by: "18:00" },
    },
  ],
}

const regional = (
  service: Pick<ServiceDocument, "code" | "name" | "price" | "reach" | "transit" | "cover"> & Partial<ServiceDocument>,
): ServiceDocument => ({
  ...home,
  dimensional: inches("166", "nearest"),
  limits: { weight: "90", length: "84", lengthAndGirth: "140" },
  goods: noDangerous,
  billing: shipperOnly,
  ...service,
})

export const boreal: TariffDocument = {
  ...common,
  carrier: "BORE",
  handover: { closing: { way: "manifest" } },
  name: "Boreal Runner",
  // the upper Midwest from Duluth
  charts: {
    home: postalChart({
      areas: {
        "558": [
          ["498", "499"],
          ["535", "588"],
        ],
      },
    }),
  },
  fuel: { road: fuelWeeks("0.11") },
  services: [
    regional({
      code: "BRD",
      name: "Boreal Day",
      price: { by: "weight", per: "package", rows: poundRows(90, 9.1, 0.33, 0.09) },
      discounts: [["0", "0.2"]],
      leastNet: "7.10",
      surcharges: [
        perPackage("handling", "9.00", { fact: "weight-over", figure: "60" }),
        perShipment("signature", "2.50", asked("signature")),
      ],
      fuel: { table: "road", on: ["base"] },
      reach: { ...everyone, residential: false, countries: ["US"] },
      options: options("signature", "return-undeliverable"),
      cover: { included: "100", most: "1000" },
      transit: { ...weekdays, days: byZone(homeZones, [1, 1, 1, 2, 2, 2, 2, 2]), by: "15:00" },
    }),
    regional({
      code: "BRE",
      name: "Boreal Evening",
      price: { by: "weight", per: "package", rows: poundRows(90, 12.4, 0.36, 0.1) },
      discounts: [["0", "0.15"]],
      leastNet: "9.60",
      surcharges: [
        perPackage("handling", "9.00", { fact: "weight-over", figure: "60" }),
        perShipment("saturday", "6.00", asked("saturday")),
        perShipment("signature", "2.50", asked("signature")),
      ],
      fuel: { table: "road", on: ["base"] },
      reach: { ...everyone, countries: ["US"] },
      options: options("signature", "saturday", "return-undeliverable"),
      cover: { included: "100", most: "1000" },
      transit: { ...weekdays, days: byZone(homeZones, [1, 1, 1, 2, 2, 2, 2, 2]), by: "20:00" },
    }),
  ],
}

export const sierra: TariffDocument = {
  ...common,
  carrier: "SIER",
  handover: { closing: { way: "none" } },
  name: "Sierra Dash",
  // the far West from Reno
  charts: {
    home: postalChart({
      areas: {
        "895": [
          ["840", "847"],
          ["889", "898"],
          ["900", "961"],
          ["970", "979"],
        ],
      },
    }),
  },
  fuel: { road: fuelWeeks("0.125") },
  services: [
    regional({
      code: "SDD",
      name: "Sierra Dash Day",
      price: { by: "weight", per: "package", rows: poundRows(90, 8.7, 0.31, 0.1) },
      discounts: [["0", "0.18"]],
      leastNet: "6.90",
      surcharges: [
        residential("3.10", "0"),
        perPackage("handling", "8.50", { fact: "weight-over", figure: "60" }),
        perShipment("signature", "2.90", asked("signature")),
      ],
      fuel: { table: "road", on: ["base", "residential"] },
      reach: { ...everyone, countries: ["US"] },
      options: options("signature", "return-undeliverable"),
      cover: { included: "100", most: "1000" },
      transit: { ...weekdays, days: byZone(homeZones, [1, 1, 2, 2, 3, 3, 3, 3]), by: "17:00" },
    }),
    regional({
      code: "SDM",
      name: "Sierra Dash Morning",
      price: { by: "weight", per: "package", rows: poundRows(90, 16.2, 0.52, 0.14) },
      discounts: [["0", "0.12"]],
      leastNet: "12.40",
      surcharges: [
        perPackage("handling", "8.50", { fact: "weight-over", figure: "60" }),
        perShipment("signature", "2.90", asked("signature")),
      ],
      fuel: { table: "road", on: ["base"] },
      reach: { ...everyone, residential: false, countries: ["US"] },
      options: options("signature"),
      cover: { included: "250", most: "1000" },
      transit: { ...weekdays, days: byZone(homeZones, [1, 1, 1, 2, 2, 2, 2, 2]), by: "10:30", cutOff: "16:00" },
    }),
  ],
}

const mail = {
  ...home,
  mode: "post" as const,
  goods: { handling: "parcel" as const, dangerous: "limited-quantity" as const, classes: ["3", "8", "9"] },
  billing: shipperOnly,
}
const mailDays = { ...weekdays, moves: [1, 2, 3, 4, 5, 6], delivers: [1, 2, 3, 4, 5, 6] }
const postal = { business: true, residential: true, postBox: true, military: true }

export const civic: TariffDocument = {
  ...common,
  carrier: "CIVI",
  handover: {
    closing: { way: "one-barcode", told: true },
    booked: { fee: "0", until: null, from: "08:00", to: "17:00", weekdays: [1, 2, 3, 4, 5, 6], window: 120 },
  },
  name: "Civic Post",
  charts: { home: postalChart(), abroad: countryChart({ CA: "A", DE: "E", CH: "E", NZ: "P" }) },
  services: [
    {
      ...mail,
      code: "CVP",
      name: "Civic Parcel",
      dimensional: inches("166", "up", "1728"),
      limits: { weight: "70", length: "108", lengthAndGirth: "130" },
      price: { by: "weight", per: "package", rows: poundRows(70, 8.4, 0.62, 0.19) },
      discounts: [["0", "0.12"]],
      leastNet: "6.20",
      surcharges: [...signatures("3.85", "9.10"), moreCover("1.05", "2.10")],
      reach: { ...postal, countries: ["US"] },
      options: options("signature", "signature-adult", "declared-value", "hold-at-location", "return-undeliverable"),
      cover: { included: "100", most: "5000" },
      transit: { ...mailDays, days: byZone(homeZones, [2, 2, 3, 3, 4, 4, 5, 6]), by: "18:00" },
    },
    {
      ...mail,
      code: "CVL",
      name: "Civic Light",
      // ounces below one pound, then nothing: it is for light things only
      weighing: {
        unit: "lb",
        steps: [
          { upTo: "1", step: "0.0625" },
          { upTo: null, step: "1" },
        ],
      },
      dimensional: null,
      limits: { weight: "1", length: "22", lengthAndGirth: "60" },
      price: {
        by: "weight",
        per: "package",
        rows: Array.from({ length: 16 }, (_, index) => [
          ((index + 1) / 16).toString(),
          ...homeZones.map((zone) => (4.1 + 0.14 * index + 0.07 * (Number(zone) - 2)).toFixed(2)),
        ]),
      },
      surcharges: [perPackage("signature", "3.85", asked("signature"))],
      reach: { ...postal, countries: ["US"] },
      options: options("signature"),
      cover: { included: "100", most: "100" },
      transit: { ...mailDays, days: byZone(homeZones, [2, 2, 3, 3, 4, 4, 5, 6]), by: "18:00" },
    },
    {
      ...mail,
      code: "CVB",
      name: "Civic Flat Box",
      dimensional: null,
      limits: { weight: "70", length: "108", lengthAndGirth: "130" },
      price: { by: "box", boxes: { CB1: "11.40", CB2: "19.85", CB3: "28.60" } },
      discounts: [["0", "0.1"]],
      surcharges: [...signatures("3.85", "9.10"), moreCover("1.05", "2.10")],
      reach: { ...postal, countries: ["US"] },
      options: options("signature", "signature-adult", "declared-value", "hold-at-location", "return-undeliverable"),
      cover: { included: "100", most: "5000" },
      transit: { ...mailDays, days: byZone(homeZones, [2, 2, 2, 3, 3, 3, 3, 5]), by: "18:00" },
    },
    {
      ...mail,
      code: "CVM",
      name: "Civic Printed Matter",
      // cheaper, for printed matter and nothing else, which the sender declares
      dimensional: null,
      goods: {
        handling: "parcel",
        dangerous: "none",
        only: "printed-matter",
        categories: [{ category: "printed-matter", needs: ["shipper-declaration"] }],
      },
      limits: { weight: "70", length: "108", lengthAndGirth: "108" },
      price: { by: "weight", per: "package", rows: poundRows(70, 4.1, 0.55, 0) },
      surcharges: [...signatures("3.85", "9.10")],
      reach: { ...postal, countries: ["US"] },
      options: options("signature", "signature-adult", "return-undeliverable"),
      cover: { included: "0", most: "0" },
      transit: { ...mailDays, days: byZone(homeZones, [4, 4, 5, 5, 6, 7, 8, 9]), by: "18:00" },
    },
    {
      ...mail,
      code: "CVI",
      name: "Civic Parcel Abroad",
      chart: "abroad",
      zones: ["A", "E", "P"],
      lengthUnit: "cm",
      weighing: { unit: "kg", steps: [{ upTo: null, step: "0.5" }] },
      dimensional: null,
      limits: { weight: "20", length: "105", lengthAndGirth: "200", value: "2500" },
      price: { by: "weight", per: "package", rows: halfKiloRows(20, [22, 34, 41], [3.4, 6.2, 7.8]) },
      surcharges: [perPackage("signature", "4.60", asked("signature")), moreCover("1.60", "4.80")],
      reach: { ...postal, countries: ["CA", "DE", "CH", "NZ"] },
      goods: noDangerous,
      postal: "parcel",
      options: options("signature", "declared-value", "return-undeliverable", "abandon-undeliverable"),
      cover: { included: "100", most: "650" },
      billing: { ...shipperOnly, duties: ["receiver"] },
      transit: { count: "business", days: { A: 8, E: 10, P: 13 }, by: "18:00" },
    },
    {
      ...mail,
      code: "CVS",
      name: "Civic Small Packet",
      chart: "abroad",
      zones: ["A", "E", "P"],
      lengthUnit: "cm",
      weighing: { unit: "kg", steps: [{ upTo: null, step: "0.05" }] },
      dimensional: null,
      limits: { weight: "2", length: "60", lengthAndGirth: "90", value: "400" },
      price: {
        by: "weight",
        per: "package",
        rows: [
          ["0.1", "7.20", "9.40", "10.10"],
          ["0.25", "9.10", "12.60", "13.90"],
          ["0.5", "12.40", "17.20", "19.40"],
          ["1", "17.80", "25.30", "28.90"],
          ["2", "26.90", "39.60", "45.20"],
        ],
      },
      surcharges: [perPackage("signature", "4.60", asked("signature"))],
      reach: { ...postal, countries: ["CA", "DE", "CH", "NZ"] },
      goods: noDangerous,
      postal: "letter",
      electronic: [{ paper: "postal-declaration", countries: ["CA"] }],
      options: options("signature"),
      cover: { included: "40", most: "40" },
      billing: { ...shipperOnly, duties: ["receiver"] },
      transit: { count: "calendar", days: { A: 9, E: 12, P: 15 }, by: "18:00" },
    },
  ],
}

// picked up by the carrier, delivered by the post: cheap, slow, and nothing is covered
const hybrid = (
  service: Pick<ServiceDocument, "code" | "name" | "limits" | "price" | "leastNet">,
): ServiceDocument => ({
  ...home,
  ...service,
  dimensional: inches("166", "up", "1728"),
  discounts: [["0", "0.25"]],
  surcharges: [
    perPackage("not-machinable", "4.20", { fact: "longest-over", figure: "22" }),
    area("2.40"),
    fetched("0.95"),
  ],
  fuel: { table: "road", on: ["base"] },
  reach: { business: false, residential: true, postBox: true, military: true, countries: ["US"] },
  goods: noDangerous,
  options: options("return-undeliverable", "drop-off"),
  cover: { included: "0", most: "0" },
  billing: shipperOnly,
  transit: { ...mailDays, days: byZone(homeZones, [4, 4, 5, 5, 6, 6, 7, 9]), by: "18:00" },
})

export const hearthway: TariffDocument = {
  ...common,
  carrier: "HEAR",
  handover: {
    closing: { way: "manifest", told: true },
    dropOff: [
      place("HW-07", "Hearthway at Lakeshore Pharmacy", "310 Superior Terrace", ["Duluth", "MN", "55803"], "19:00"),
      place("HW-12", "Hearthway at Miller Grocery", "1600 Trunk Road", ["Hermantown", "MN", "55811"], "21:00"),
      place("HW-44", "Hearthway at Truckee Meadows Books", "88 Prater Lane", ["Sparks", "NV", "89431"], "20:00"),
    ],
  },
  name: "Hearthway",
  charts: { home: postalChart() },
  fuel: {
    // by the price of diesel, in steps
    road: {
      prices: [
        ["2026-01-05", "3.402"],
        ["2026-11-02", "3.641"],
        ["2026-11-09", "3.702"],
        ["2026-11-16", "3.688"],
        ["2026-11-23", "3.715"],
      ],
      steps: [
        ["0", "0.06"],
        ["3.4", "0.075"],
        ["3.7", "0.085"],
        ["4", "0.095"],
      ],
    },
  },
  services: [
    hybrid({
      code: "HWS",
      name: "Hearthway Saver",
      limits: { weight: "9", length: "27", lengthAndGirth: "84" },
      price: { by: "weight", per: "package", rows: poundRows(9, 7.2, 0.41, 0.12) },
      leastNet: "5.10",
    }),
    hybrid({
      code: "HWP",
      name: "Hearthway Saver Plus",
      limits: { weight: "25", length: "34", lengthAndGirth: "108" },
      price: { by: "weight", per: "package", rows: poundRows(25, 9.8, 0.44, 0.13) },
      leastNet: "7.30",
    }),
  ],
}
