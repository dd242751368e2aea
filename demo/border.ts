import type { Knex } from "knex"
import { customers } from "./customers.ts"
import type { DemoItem } from "./goods.ts"
import { signaturePicture } from "./signature.ts"

/** What the demo needs for papers: goods that carriers treat apart, the shipper's numbers, dated tables, languages. */

/** Goods that need a declaration, a mark or a license. What is said of them by UN number is from memory. */
export const apart: DemoItem[] = [
  {
    sku: "CLN-CAU-20",
    description: "Caustic cleaner, 20 L drum",
    weight: "58",
    size: ["13", "13", "18"],
    bin: "Q-02-1",
    stock: 24,
    value: "88.00",
    hs: "3402.90",
    origin: "US",
    upright: true,
    kind: "chemical",
    unNumber: "UN1824",
    dangerous: {
      name: "Sodium hydroxide solution",
      class: "8",
      group: "II",
      quantity: "20",
      unit: "L",
      limited: false,
    },
    border: { classItem: "48580", technicalName: "" },
  },
  {
    sku: "SAN-PAA-1",
    description: "Peracetic sanitizer, 1 L bottle",
    weight: "2.6",
    size: ["4", "4", "10"],
    bin: "Q-02-4",
    stock: 60,
    value: "27.00",
    hs: "3808.94",
    origin: "US",
    upright: true,
    kind: "chemical",
    unNumber: "UN3149",
    // nobody has said its packing group: its orders wait for it
    dangerous: {
      name: "Hydrogen peroxide and peroxyacetic acid mixture, stabilized",
      class: "5.1",
      group: "",
      quantity: "1",
      unit: "L",
      limited: true,
    },
    border: { subsidiary: "8" },
  },
  {
    sku: "THM-RAD-2",
    description: "Wireless tank thermometer",
    weight: "0.9",
    size: ["6", "4", "3"],
    bin: "K-08-4",
    stock: 60,
    value: "129.00",
    hs: "9025.19",
    origin: "TW",
    customs: "Wireless thermometer for tanks, with lithium-ion battery",
    unNumber: "UN3481",
    dangerous: {
      name: "Lithium ion batteries contained in equipment",
      class: "9",
      group: "",
      quantity: "",
      unit: "",
      limited: false,
    },
    border: { lithium: { unit: "battery", count: 1, wattHours: "7.4", grams: null, button: false } },
  },
  {
    sku: "BAT-HND-4",
    description: "Spare battery for cordless capper",
    weight: "1.6",
    size: ["5", "3", "4"],
    bin: "K-08-5",
    stock: 40,
    value: "84.00",
    hs: "8507.60",
    origin: "CN",
    unNumber: "UN3480",
    dangerous: { name: "Lithium ion batteries", class: "9", group: "", quantity: "", unit: "", limited: false },
    border: { lithium: { unit: "battery", count: 1, wattHours: "108", grams: null, button: false } },
  },
  {
    sku: "YST-LIQ-1",
    description: "Liquid yeast culture, 1 L, frozen",
    weight: "2.5",
    size: ["5", "5", "9"],
    bin: "D-13-1",
    stock: 40,
    value: "96.00",
    hs: "2102.10",
    origin: "US",
    upright: true,
    kind: "food",
  },
  {
    sku: "BIT-ORG-200",
    description: "Orange bitters 44% vol., 200 mL",
    weight: "0.95",
    size: ["3", "3", "7"],
    bin: "K-09-1",
    stock: 120,
    value: "11.50",
    hs: "2208.90",
    origin: "US",
    upright: true,
    border: { category: "alcohol" },
  },
  {
    sku: "CAT-2027",
    description: "Printed catalog 2027, bundle of 10",
    weight: "6.4",
    size: ["12", "9", "3"],
    bin: "K-09-3",
    stock: 90,
    value: "20.00",
    hs: "4911.10",
    origin: "US",
    border: { category: "printed-matter" },
  },
]

/** What papers say of both warehouses; numbers are invented in their countries' shapes. */
const shipper = {
  taxNumber: "41-0000042",
  eori: "",
  oneStop: "IM0000000042",
  emergencyPhone: "+1 800 555 0199",
  signer: "Maren Holt",
  title: "Shipping",
}

/** Invented rates of exchange, told as they would be published: one of the first for so many of the second. */
const exchangeRates = [
  ["2026-10-01", "USD", "CAD", "1.3842"],
  ["2026-11-02", "USD", "CAD", "1.3907"],
  ["2026-11-16", "USD", "CAD", "1.3951"],
  ["2026-11-02", "EUR", "USD", "1.1120"],
  ["2026-11-16", "EUR", "USD", "1.1085"],
  ["2026-11-16", "USD", "CHF", "0.8420"],
  ["2026-11-16", "NZD", "USD", "0.5930"],
  ["2026-11-02", "XDR", "USD", "1.3480"],
  ["2026-11-16", "XDR", "USD", "1.3425"],
] as const

/**
 * What countries take on imports: limits and shares as remembered, not looked up; whoever ships by them has them from his
 * broker. Canada's limits are those for goods that come by courier from the United States.
 */
const importRules = [
  ["CA", "2020-07-01", "CAD", "150.00", "40.00", "0.05", "fob", null],
  ["DE", "2021-07-01", "EUR", "150.00", null, "0.19", "cif", "150.00"],
  ["CH", "2024-01-01", "CHF", null, "62.00", "0.081", "cif", null],
  ["NZ", "2019-12-01", "NZD", "1000.00", "1000.00", "0.15", "fob", null],
] as const

/** Shares of duty by the beginning of the code; invented where not zero. */
const dutyRates = [
  ["CA", "", "", "0.065"],
  ["CA", "", "US", "0"],
  ["CA", "2102", "", "0.08"],
  ["CA", "1210", "", "0"],
  ["DE", "9025", "", "0.02"],
  ["DE", "9027", "", "0"],
  ["DE", "2102", "", "0.08"],
  ["DE", "1210", "", "0.058"],
  ["DE", "8507", "", "0.027"],
  ["CH", "", "", "0"],
  ["NZ", "73", "", "0.05"],
  ["NZ", "84", "", "0.05"],
  ["NZ", "2102", "", "0"],
] as const

/** Fills the tables that papers go by. */
export async function loadBorder(db: Knex): Promise<void> {
  await db("warehouse").update({ shipper: JSON.stringify(shipper), signature: signaturePicture() })
  await db("exchange_rate").insert(
    exchangeRates.map(([on_date, from_currency, to_currency, rate]) => ({ on_date, from_currency, to_currency, rate })),
  )
  await db("import_rule").insert(
    importRules.map(([country, valid_from, currency, duty_free, tax_free, tax_share, basis, one_stop]) => ({
      country,
      valid_from,
      currency,
      duty_free,
      tax_free,
      tax_share,
      basis,
      one_stop,
    })),
  )
  await db("duty_rate").insert(
    dutyRates.map(([country, prefix, origin, share]) => ({
      country,
      prefix,
      origin,
      share,
      valid_from: "2026-01-01" as const,
    })),
  )
  for (const { code, country, state } of customers)
    if (country === "DE" || (country === "CH" && code === "ALPSUD"))
      await db("customer").where({ code }).update({ language: "de" })
    else if (code === "JURACI" || state === "QC") await db("customer").where({ code }).update({ language: "fr" })
}
