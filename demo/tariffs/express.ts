import type { TariffDocument } from "core/tariff/index.ts"
import { byZone, countryChart, fuelWeeks, halfKiloRows, homeZones, postalChart, poundRows } from "./geography.ts"
import {
  allPayers,
  asked,
  common,
  dryIce,
  everyone,
  halfKilos,
  inches,
  moreCover,
  options,
  perPackage,
  pounds,
  residential,
  type ServiceDocument,
} from "./parts.ts"

/** Invented carriers by air, at home and abroad. */

const abroadZones = ["A", "E", "P"]
const abroadCountries = { CA: "A", DE: "E", CH: "E", NZ: "P" }
const noDangerous = { handling: "parcel" as const, dangerous: "none" as const }
const home = {
  mode: "parcel" as const,
  chart: "home",
  zones: homeZones,
  lengthUnit: "in" as const,
  weighing: pounds,
  goods: noDangerous,
}
const abroad = {
  mode: "parcel" as const,
  chart: "abroad",
  zones: abroadZones,
  lengthUnit: "cm" as const,
  weighing: halfKilos,
  dimensional: inches("5000"),
  reach: { ...everyone, countries: Object.keys(abroadCountries) },
  goods: noDangerous,
  billing: { ...allPayers, duties: ["shipper" as const, "receiver" as const, "third-party" as const] },
}
const meridianLimits = { weight: "70", length: "72", lengthAndGirth: "130" }
const byAir = (
  service: Pick<ServiceDocument, "code" | "name" | "price" | "reach" | "transit"> & Partial<ServiceDocument>,
): ServiceDocument => ({
  ...home,
  dimensional: inches("166", "nearest", "1728"),
  limits: meridianLimits,
  cover: { included: "100", most: "10000" },
  billing: allPayers,
  fuel: null,
  ...service,
})

export const meridian: TariffDocument = {
  ...common,
  carrier: "MERI",
  name: "Meridian Air",
  charts: { home: postalChart(), abroad: countryChart(abroadCountries) },
  fuel: { saver: fuelWeeks("0.14"), next: fuelWeeks("0.162"), cargo: fuelWeeks("0.22") },
  services: [
    byAir({
      code: "MDS",
      name: "Meridian Saver",
      price: { by: "weight", per: "package", rows: poundRows(70, 19.8, 0.88, 0.16) },
      discounts: [["0", "0.35"]],
      leastNet: "13.75",
      surcharges: [
        perPackage("handling", "14.00", { fact: "weight-over", figure: "50" }, { discount: "0.1" }),
        perPackage("signature", "4.75", asked("signature")),
        moreCover("1.10", "3.30"),
      ],
      fuel: { table: "saver", on: ["base", "handling"] },
      reach: { ...everyone, residential: false, countries: ["US"], statesNotServed: ["PR", "GU", "VI", "AS", "MP"] },
      options: options("signature", "declared-value", "return-undeliverable"),
      transit: { count: "business", days: byZone(homeZones, [2, 2, 2, 3, 3, 3, 3, 4]), by: "12:00" },
    }),
    byAir({
      code: "MDN",
      name: "Meridian Next Flight",
      price: { by: "weight", per: "package", rows: poundRows(70, 48, 2.1, 0.31) },
      discounts: [["0", "0.3"]],
      leastNet: "32.00",
      surcharges: [
        residential("7.10", "0.2"),
        perPackage("handling", "14.00", { fact: "weight-over", figure: "50" }, { discount: "0.1" }),
        perPackage("signature", "4.75", asked("signature")),
        perPackage("signature-adult", "6.80", asked("signature-adult")),
        perPackage("saturday", "19.50", asked("saturday")),
        moreCover("1.10", "3.30"),
        dryIce("1.10", "8.00"),
      ],
      fuel: { table: "next", on: ["base", "residential", "handling"] },
      reach: { ...everyone, postBox: true, countries: ["US"], statesNotServed: ["PR", "GU", "VI", "AS", "MP", "HI"] },
      options: options("signature", "signature-adult", "saturday", "declared-value", "dry-ice", "hold-at-location"),
      transit: { count: "business", days: byZone(homeZones, [1, 1, 1, 1, 1, 1, 1, 2]), by: "10:30" },
    }),
    {
      ...abroad,
      code: "MDW",
      name: "Meridian World Saver",
      limits: { weight: "50", length: "175", lengthAndGirth: "300" },
      price: { by: "weight", per: "package", rows: halfKiloRows(50, [34, 58, 81], [3.2, 6.3, 8.9]) },
      discounts: [["0", "0.35"]],
      leastNet: "19.50",
      surcharges: [perPackage("signature", "5.20", asked("signature")), moreCover("1.30", "6.50")],
      fuel: { table: "saver", on: ["base"] },
      options: options("signature", "declared-value", "return-undeliverable", "lower-emission"),
      cover: { included: "100", most: "10000" },
      transit: { count: "business", days: { A: 4, E: 6, P: 8 }, by: "18:00" },
    },
    {
      ...abroad,
      code: "MDC",
      name: "Meridian Air Freight",
      mode: "air",
      // the whole shipment, at 6000 cm³ a kilogram, to the next half kilogram; priced as the next break where less
      dimensional: inches("6000"),
      limits: { weight: "1200", length: "310", height: "158", total: "4500" },
      price: {
        by: "unit",
        minimum: { A: "95.00", E: "120.00", P: "150.00" },
        breaks: ["0", "45", "100", "300", "500", "1000"],
        rates: {
          A: ["3.10", "2.45", "2.05", "1.80", "1.62", "1.50"],
          E: ["5.40", "4.30", "3.55", "3.10", "2.84", "2.65"],
          P: ["7.20", "5.75", "4.80", "4.20", "3.85", "3.60"],
        },
        asWeight: true,
      },
      surcharges: [
        {
          code: "security",
          amount: { basis: "weight-unit", figure: "0.15", least: "12.00" },
          when: { fact: "country", countries: ["CA", "DE", "CH", "NZ"] },
        },
        {
          code: "terminal",
          amount: { basis: "shipment", figure: { A: "35.00", E: "42.00", P: "48.00" } },
          when: { fact: "total-over", figure: "0" },
        },
        { code: "dangerous-goods", amount: { basis: "shipment", figure: "110.00" }, when: { fact: "dangerous" } },
      ],
      fuel: { table: "cargo", on: ["base"] },
      goods: { handling: "any", dangerous: "all", classes: ["3", "8", "9"] },
      options: options("return-undeliverable"),
      cover: { included: "0", most: "0" },
      billing: { freight: ["shipper", "receiver"], duties: ["receiver"] },
      transit: { count: "business", days: { A: 3, E: 4, P: 6 }, by: "17:00", departs: [2, 4] },
    },
  ],
}

export const swiftwater: TariffDocument = {
  ...common,
  carrier: "SWIF",
  name: "Swiftwater Express",
  charts: { home: postalChart(), abroad: countryChart(abroadCountries) },
  fuel: { home: fuelWeeks("0.19"), world: fuelWeeks("0.205") },
  services: [
    {
      ...home,
      code: "SWM",
      name: "Swiftwater Morning",
      dimensional: inches("139"),
      limits: { weight: "150", length: "119", lengthAndGirth: "165" },
      price: { by: "weight", per: "package", rows: poundRows(150, 62, 2.9, 0.42) },
      discounts: [["0", "0.36"]],
      leastNet: "36.00",
      surcharges: [
        residential("6.95", "0.2"),
        perPackage("handling", "29.00", { fact: "weight-over", figure: "70" }, { discount: "0.2" }),
        perPackage("area", "7.40", { fact: "area", area: "remote" }),
        perPackage("saturday", "22.00", asked("saturday")),
        perPackage("signature-adult", "6.20", asked("signature-adult")),
        moreCover("1.25", "5.00"),
        dryIce("1.00", "9.00"),
      ],
      fuel: { table: "home", on: ["base", "residential", "handling", "area"] },
      reach: { ...everyone, countries: ["US"], statesNotServed: ["GU", "AS", "MP", "VI"] },
      options: options("signature", "signature-adult", "saturday", "declared-value", "dry-ice", "hold-at-location"),
      cover: { included: "100", most: "25000" },
      billing: allPayers,
      transit: { count: "business", days: byZone(homeZones, [1, 1, 1, 1, 1, 1, 1, 2]), by: "09:00" },
    },
    {
      ...abroad,
      code: "SWI",
      name: "Swiftwater World",
      limits: { weight: "70", length: "270", lengthAndGirth: "330" },
      price: { by: "weight", per: "package", rows: halfKiloRows(70, [58, 92, 118], [5.1, 9.4, 12.8]) },
      discounts: [["0", "0.42"]],
      leastNet: "28.00",
      surcharges: [
        perPackage("handling", "32.00", { fact: "weight-over", figure: "32" }, { discount: "0.2" }),
        perPackage("signature", "5.50", asked("signature")),
        moreCover("1.40", "14.00"),
        dryIce("1.40", "12.00"),
      ],
      fuel: { table: "world", on: ["base", "handling"] },
      options: options("signature", "declared-value", "dry-ice", "return-undeliverable", "lower-emission"),
      cover: { included: "100", most: "25000" },
      transit: { count: "business", days: { A: 2, E: 3, P: 4 }, by: "12:00" },
    },
    {
      ...abroad,
      code: "SWE",
      name: "Swiftwater World Economy",
      limits: { weight: "70", length: "270", lengthAndGirth: "330" },
      // the shipment as a whole, however many packages
      price: {
        by: "weight",
        per: "shipment",
        rows: halfKiloRows(70, [41, 66, 90], [3.9, 7.1, 9.9]),
        beyond: { step: "1", rate: { A: "3.70", E: "6.90", P: "9.60" } },
      },
      discounts: [["0", "0.38"]],
      leastNet: "22.00",
      surcharges: [
        perPackage("handling", "32.00", { fact: "weight-over", figure: "32" }, { discount: "0.2" }),
        perPackage("signature", "5.50", asked("signature")),
        moreCover("1.40", "14.00"),
      ],
      fuel: { table: "world", on: ["base", "handling"] },
      options: options("signature", "declared-value", "return-undeliverable", "lower-emission"),
      cover: { included: "100", most: "25000" },
      transit: { count: "business", days: { A: 3, E: 5, P: 6 }, by: "17:00" },
    },
  ],
}
