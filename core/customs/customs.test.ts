import { Decimal } from "decimal.js"
import { describe, expect, it } from "vitest"
import type { Address } from "../address/index.ts"
import { moneyText } from "../money/index.ts"
import { mass, massIn } from "../units/index.ts"
import { type CustomsFacts, customsGaps, incoterms, invoiceLines, isHsCode, saysWhatItIs } from "./index.ts"

const berlin: Address = {
  company: "Brauhaus Kesselwehr",
  attention: "",
  street: "Gärbottichweg 4",
  street2: "",
  city: "Berlin",
  state: "",
  postalCode: "10115",
  country: "DE",
  phone: "+49 30 5550142",
  kind: "business",
}
const yeast: CustomsFacts = {
  lineNumber: 1,
  sku: "YST",
  description: "Dry brewing yeast, inactive",
  hsCode: "2102.10",
  origin: "BE",
  unitValue: new Decimal("78.00"),
}
const gaps = (more: Partial<CustomsFacts> = {}, terms = { incoterm: "DAP", place: "Berlin" }, to = berlin) =>
  customsGaps(to, terms, [{ ...yeast, ...more }]).map((one) => one.code)

describe("Incoterms 2020", () => {
  // ICC Incoterms 2020: eleven rules, four of them for sea and inland waterway only
  it("are eleven, four of them for the sea", () => {
    expect(Object.keys(incoterms).sort()).toEqual(
      ["EXW", "FCA", "CPT", "CIP", "DAP", "DPU", "DDP", "FAS", "FOB", "CFR", "CIF"].sort(),
    )
    const sea = Object.entries(incoterms).filter(([, rule]) => rule.seaOnly)
    expect(sea.map(([code]) => code).sort()).toEqual(["CFR", "CIF", "FAS", "FOB"])
  })
})

describe("gaps", () => {
  it("none when everything is said", () => expect(gaps()).toEqual([]))
  it.each<[string, Parameters<typeof gaps>, string]>([
    ["no rule", [{}, { incoterm: "", place: "Berlin" }], "customs.no-incoterm"],
    ["an unknown rule", [{}, { incoterm: "DDU", place: "Berlin" }], "customs.unknown-incoterm"],
    ["a rule for the sea", [{}, { incoterm: "FOB", place: "Duluth" }], "customs.sea-incoterm"],
    ["no place", [{}, { incoterm: "DAP", place: " " }], "customs.no-place"],
    ["no telephone", [{}, undefined, { ...berlin, phone: "" }], "customs.no-phone"],
    ["no code", [{ hsCode: "" }], "customs.no-hs-code"],
    ["half a code", [{ hsCode: "2102" }], "customs.hs-code-shape"],
    ["no origin", [{ origin: "" }], "customs.no-origin"],
    ["a vague description", [{ description: "Spare parts" }], "customs.vague-description"],
    ["no value", [{ unitValue: null }], "customs.no-value"],
    ["a value of nothing", [{ unitValue: new Decimal(0) }], "customs.no-value"],
  ])("%s", (_, given, expected) => expect(gaps(...given)).toEqual([expected]))
  it.each(["2102.10", "210210", "2102.10.20", "2102102000"])("%s is a code", (code) =>
    expect(isHsCode(code)).toBe(true),
  )
  it.each(["21", "2102.1", "21021", "2102-10"])("%s is none", (code) => expect(isHsCode(code)).toBe(false))
  it.each([
    ["Gift", false],
    ["parts", false],
    ["various samples", false],
    ["Stainless clamp", true],
    ["Refractometer", true],
  ])("“%s” says what it is: %s", (text, good) => expect(saysWhatItIs(text)).toBe(good))
})

it("adds an invoice up from rounded lines", () => {
  // 3 × 1.335 = 4.005 → 4.01; 7 × 0.333 = 2.331 → 2.33; together 6.34; net 3 × 0.5 + 7 × 0.1 = 2.2 kg
  const line = (quantity: number, unitValue: string, kg: string) => ({
    ...yeast,
    quantity,
    unitValue: new Decimal(unitValue),
    unitWeight: mass(kg, "kg"),
  })
  const invoice = invoiceLines([line(3, "1.335", "0.5"), line(7, "0.333", "0.1")], "EUR")
  expect(invoice.lines.map((one) => moneyText(one.value).amount)).toEqual(["4.01", "2.33"])
  expect(moneyText(invoice.total)).toEqual({ amount: "6.34", currency: "EUR" })
  expect(massIn(invoice.netWeight, "kg").toString()).toBe("2.2")
})

it("adds the invoices of an order in parts up to the order, though each piece alone would be rounded up", () => {
  // 3 × 0.335 = 1.005 → 1.01 in all; 0.34, then 0.67 − 0.34, then 1.01 − 0.67
  const part = (before: number) => {
    const line = { ...yeast, quantity: 1, before, unitValue: new Decimal("0.335"), unitWeight: mass("0.5", "kg") }
    return moneyText(invoiceLines([line], "USD").total).amount
  }
  expect([0, 1, 2].map(part)).toEqual(["0.34", "0.33", "0.34"])
})
