import type { TariffDocument } from "core/tariff/index.ts"
import { byZone, countryChart, fuelWeeks, homeZones, offshore, postalChart } from "./geography.ts"
import {
  allPayers,
  asked,
  common,
  everyone,
  options,
  perPackage,
  perShipment,
  pounds,
  type ServiceDocument,
  type SurchargeDocument,
  shipperOnly,
} from "./parts.ts"

/** Invented carriers of pallets: less than truckload, consolidated freight by sea, and a vehicle of our own. */

const breaks = ["0", "500", "1000", "2000", "5000", "10000"]
const fall = [1, 0.83, 0.7, 0.58, 0.43, 0.34]
const classes = [
  ["50", 0.55],
  ["55", 0.6],
  ["60", 0.65],
  ["65", 0.69],
  ["70", 0.74],
  ["77.5", 0.79],
  ["85", 0.85],
  ["92.5", 0.93],
  ["100", 1],
  ["110", 1.09],
  ["125", 1.22],
  ["150", 1.44],
  ["175", 1.68],
  ["200", 1.9],
  ["250", 2.36],
  ["300", 2.8],
  ["400", 3.7],
  ["500", 4.6],
] as const

/** Rates per 100 lb by zone, class and break, and minima, from a formula of our own. */
const classRates = (zones: readonly string[], base: number, perZone: number) => ({
  breaks,
  rates: Object.fromEntries(
    zones.map((zone, far) => [
      zone,
      Object.fromEntries(
        classes.map(([name, factor]) => [
          name,
          fall.map((part) => ((base + perZone * far) * factor * part).toFixed(2)),
        ]),
      ),
    ]),
  ),
  minimum: Object.fromEntries(zones.map((zone, far) => [zone, (base * 4 + perZone * 4 * far).toFixed(2)])),
})

const perHundred = (
  code: string,
  figure: string,
  least: string,
  most: string,
  when: SurchargeDocument["when"],
): SurchargeDocument => ({ code, amount: { basis: "hundredweight", figure, least, most }, when })

const ltl = {
  mode: "freight" as const,
  chart: "home",
  zones: homeZones,
  lengthUnit: "in" as const,
  weighing: pounds,
  dimensional: null,
  reach: { ...everyone, countries: ["US"], statesNotServed: offshore },
  goods: { handling: "pallet" as const, dangerous: "all" as const },
  options: options(
    "liftgate",
    "liftgate-pickup",
    "appointment",
    "notify",
    "inside-delivery",
    "limited-access",
    "protect-from-freezing",
    "sort-and-segregate",
  ),
  cover: { included: "0", most: "0" },
  billing: allPayers,
}
const accessorials = (liftgate: string): SurchargeDocument[] => [
  perShipment("liftgate", liftgate, asked("liftgate")),
  perShipment("liftgate-pickup", liftgate, asked("liftgate-pickup")),
  perShipment("appointment", "24.00", asked("appointment")),
  perShipment("notify", "8.50", asked("notify")),
  perHundred("inside-delivery", "9.20", "74.00", "420.00", asked("inside-delivery")),
  perShipment("limited-access", "95.00", asked("limited-access")),
  perHundred("protect-from-freezing", "2.40", "28.00", "190.00", asked("protect-from-freezing")),
  perHundred("sort-and-segregate", "3.10", "45.00", "380.00", asked("sort-and-segregate")),
  perShipment("dangerous-goods", "36.00", { fact: "dangerous" }),
]

export const ironbark: TariffDocument = {
  ...common,
  carrier: "IRON",
  handover: {
    closing: { way: "bill-of-lading", copies: 2 },
    booked: { fee: "0", until: "13:00", from: "08:00", to: "17:00", window: 120 },
  },
  name: "Ironbark Freight",
  charts: { home: postalChart() },
  fuel: {
    // by the week's price of diesel, in steps
    diesel: {
      prices: [
        ["2026-01-05", "3.402"],
        ["2026-10-05", "3.588"],
        ["2026-10-26", "3.655"],
        ["2026-11-02", "3.641"],
        ["2026-11-09", "3.702"],
        ["2026-11-16", "3.688"],
        ["2026-11-23", "3.715"],
      ],
      steps: [
        ["0", "0.21"],
        ["3.2", "0.242"],
        ["3.4", "0.262"],
        ["3.6", "0.282"],
        ["3.8", "0.302"],
        ["4", "0.322"],
      ],
    },
  },
  services: [
    {
      ...ltl,
      code: "IBS",
      name: "Ironbark Standard LTL",
      price: {
        by: "class",
        ...classRates(homeZones, 41, 7.5),
        classFrom: "item",
        fak: [],
        linearFoot: { from: "10", weightPerFoot: "1000" },
        cubicCapacity: { from: "750", densityUnder: "6", weightPerFoot: "6", asClass: "125" },
      },
      discounts: [["0", "0.58"]],
      leastNet: "92.00",
      limits: { total: "18000", pieces: 10, length: "144", height: "96" },
      surcharges: [
        ...accessorials("98.00"),
        perHundred("residential", "11.50", "78.00", "310.00", { fact: "residential" }),
        perShipment("handling-long", "120.00", { fact: "longest-over", figure: "96" }),
      ],
      fuel: { table: "diesel", on: ["base"] },
      transit: { count: "business", days: byZone(homeZones, [1, 2, 2, 3, 4, 4, 5, 8]), by: "17:00" },
    },
    {
      ...ltl,
      code: "IBQ",
      name: "Ironbark Quick LTL",
      price: { by: "class", ...classRates(homeZones, 58, 9.2), classFrom: "item", fak: [] },
      discounts: [["0", "0.5"]],
      leastNet: "148.00",
      limits: { total: "10000", pieces: 6, length: "120", height: "90" },
      surcharges: accessorials("98.00"),
      fuel: { table: "diesel", on: ["base"] },
      transit: {
        count: "business",
        days: byZone(homeZones, [1, 1, 1, 2, 2, 3, 3, 6]),
        by: "12:00",
        lanes: [["US", "606", "608", 1]],
      },
    },
  ],
}

export const sledgeway: TariffDocument = {
  ...common,
  carrier: "SLED",
  handover: {
    closing: { way: "bill-of-lading", copies: 2 },
    booked: { fee: "15.00", until: "12:00", from: "08:00", to: "16:30", window: 120 },
  },
  name: "Sledgeway Lines",
  charts: { home: postalChart() },
  fuel: { diesel: fuelWeeks("0.265") },
  services: [
    {
      ...ltl,
      code: "SLG",
      name: "Sledgeway LTL",
      // agreed with this carrier: what is 70 to 150 by itself is rated as 92.5
      price: {
        by: "class",
        ...classRates(homeZones, 38, 8.1),
        classFrom: "item",
        fak: [{ classes: ["70", "77.5", "85", "92.5", "100", "110", "125", "150"], as: "92.5" }],
      },
      discounts: [["0", "0.55"]],
      leastNet: "88.00",
      limits: { total: "20000", pieces: 12, length: "144", height: "98" },
      surcharges: [
        perHundred("liftgate", "8.20", "72.00", "260.00", asked("liftgate")),
        ...accessorials("0").filter((one) => one.code !== "liftgate" && one.code !== "liftgate-pickup"),
        perHundred("liftgate-pickup", "8.20", "72.00", "260.00", asked("liftgate-pickup")),
      ],
      fuel: { table: "diesel", on: ["base"] },
      transit: { count: "business", days: byZone(homeZones, [1, 2, 3, 3, 4, 5, 6, 9]), by: "17:00" },
    },
    {
      ...ltl,
      code: "SLV",
      name: "Sledgeway Volume",
      // many or light pallets: the class by density whatever the item, by the floor from six feet on
      price: {
        by: "class",
        ...classRates(homeZones, 31, 6.6),
        classFrom: "density",
        fak: [],
        linearFoot: { from: "6", weightPerFoot: "650" },
        cubicCapacity: { from: "350", densityUnder: "4", weightPerFoot: "4", asClass: "125" },
      },
      discounts: [
        ["0", "0.4"],
        ["800", "0.52"],
      ],
      leastNet: "180.00",
      limits: { total: "24000", pieces: 24, length: "144", height: "98" },
      surcharges: [
        perHundred("liftgate", "8.20", "72.00", "260.00", asked("liftgate")),
        perShipment("notify", "8.50", asked("notify")),
        perShipment("appointment", "24.00", asked("appointment")),
      ],
      fuel: { table: "diesel", on: ["base"] },
      options: options("liftgate", "notify", "appointment"),
      transit: { count: "business", days: byZone(homeZones, [2, 3, 4, 4, 5, 6, 7, 10]), by: "17:00" },
    },
  ],
}

/** Regions by the first digits of ZIP codes, and the lanes that the regional carrier runs, each its own zone. */
const lanes = ["N", "C", "L", "W"]
export const pinecoast: TariffDocument = {
  ...common,
  carrier: "PINE",
  handover: { closing: { way: "bill-of-lading" } },
  name: "Pinecoast Regional",
  charts: {
    home: {
      by: "lane",
      regions: {
        Superior: [["US", "544", "567"]],
        Plains: [
          ["US", "570", "588"],
          ["US", "680", "693"],
        ],
        Lakes: [
          ["US", "460", "499"],
          ["US", "530", "543"],
          ["US", "600", "629"],
        ],
        Basin: [["US", "889", "898"]],
        Coast: [
          ["US", "900", "961"],
          ["US", "970", "994"],
        ],
      },
      lanes: [
        ["Superior", "Superior", "N"],
        ["Superior", "Plains", "C"],
        ["Superior", "Lakes", "L"],
        ["Basin", "Basin", "N"],
        ["Basin", "Coast", "W"],
      ],
    },
  },
  fuel: { diesel: fuelWeeks("0.238") },
  services: [
    {
      ...ltl,
      code: "PCR",
      name: "Pinecoast Regional LTL",
      zones: lanes,
      price: { by: "class", ...classRates(lanes, 33, 4.4), classFrom: "density", fak: [] },
      discounts: [["0", "0.44"]],
      leastNet: "79.00",
      limits: { total: "12000", pieces: 8, length: "96", height: "94" },
      surcharges: accessorials("64.00"),
      fuel: { table: "diesel", on: ["base"] },
      transit: { count: "business", days: { N: 1, C: 2, L: 2, W: 2 }, by: "16:00" },
    },
  ],
}

export const halcyon: TariffDocument = {
  ...common,
  currency: "EUR",
  carrier: "HALC",
  handover: { closing: { way: "bill-of-lading" } },
  name: "Halcyon Line",
  charts: { abroad: countryChart({ DE: "E", CH: "E", NZ: "P" }) },
  fuel: { bunker: fuelWeeks("0.11") },
  services: [
    {
      code: "HLG",
      name: "Halcyon Groupage",
      mode: "groupage",
      chart: "abroad",
      zones: ["E", "P"],
      lengthUnit: "cm",
      weighing: { unit: "kg", steps: [{ upTo: null, step: "1" }] },
      dimensional: null,
      limits: { weight: "2500", length: "580", height: "220", total: "14000" },
      price: { by: "measure", perTon: { E: "118.00", P: "142.00" }, least: "1", step: "0.001" },
      surcharges: [
        perShipment("terminal", "85.00", { fact: "total-over", figure: "0" }),
        perShipment("documents", "45.00", { fact: "total-over", figure: "0" }),
        perPackage("over-height", "60.00", { fact: "volume-over", figure: "4000000" }),
        perShipment("dangerous-goods", "140.00", { fact: "dangerous" }),
      ],
      fuel: { table: "bunker", on: ["base"] },
      reach: { ...everyone, residential: false, countries: ["DE", "CH", "NZ"] },
      goods: { handling: "pallet", dangerous: "all", classes: ["3", "8", "9"] },
      options: options("notify"),
      cover: { included: "0", most: "0" },
      billing: { freight: ["shipper", "receiver"], duties: ["receiver"] },
      // to the port by road, then with the weekly sailing
      transit: { count: "calendar", days: { E: 31, P: 38 }, by: "17:00", departs: [5] },
    },
  ],
}

const ownService = (
  service: Pick<ServiceDocument, "code" | "name" | "goods" | "limits" | "price" | "transit">,
): ServiceDocument => ({
  mode: "own",
  chart: "round",
  zones: ["near", "far"],
  lengthUnit: "in",
  weighing: pounds,
  dimensional: null,
  surcharges: [perShipment("liftgate", "0", asked("liftgate"))],
  fuel: null,
  reach: { ...everyone, countries: ["US"] },
  options: options("liftgate", "inside-delivery", "appointment"),
  cover: { included: "0", most: "0" },
  billing: shipperOnly,
  ...service,
})

export const ownVehicle: TariffDocument = {
  ...common,
  carrier: "VANS",
  handover: { closing: { way: "none" } },
  name: "Our own van",
  note: "What a stop costs us: driver, van and way, reckoned by the accountant for 2026",
  charts: {
    round: {
      by: "distance",
      unit: "mi",
      bands: [
        ["25", "near"],
        ["90", "far"],
      ],
    },
  },
  services: [
    ownService({
      code: "VAN",
      name: "Our own van",
      goods: { handling: "any", dangerous: "limited-quantity" },
      limits: { pieces: 40, total: "1800", height: "66" },
      price: { by: "way", stop: "9.50", perUnit: "0.62", unit: "mi", minimum: "12.00" },
      transit: { count: "business", days: { near: 0, far: 1 }, by: "16:00", departs: [2, 4] },
    }),
  ],
}
