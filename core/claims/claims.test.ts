import { expect, it } from "vitest"
import { moneyText } from "../money/index.ts"
import {
  acknowledgedBy,
  answeredBy,
  type Claimed,
  claimAmounts,
  claimStates,
  fileBy,
  freightTerms,
  nextStates,
  parcelTerms,
} from "./index.ts"

const days = { shippedOn: "2026-11-19", dueOn: "2026-11-24", deliveredOn: "2026-11-23" } as const

it.each([
  // 60 days from November 19: 11 left in November, 31 in December, 18 in January
  ["loss", parcelTerms, "2027-01-18"],
  ["damage", parcelTerms, "2027-01-22"],
  ["shortage", parcelTerms, "2027-01-22"],
  // nine months, 49 U.S.C. 14706(e)(1)
  ["loss", freightTerms, "2027-08-24"],
  ["damage", freightTerms, "2027-08-23"],
] as const)("a claim for %s is filed by %s", (kind, terms, day) => expect(fileBy(kind, days, terms)).toBe(day))

it("runs from the shipping day where nobody knows another", () => {
  const known = { shippedOn: "2026-11-19", dueOn: null, deliveredOn: null } as const
  expect(fileBy("loss", known, freightTerms)).toBe("2027-08-19")
  expect(fileBy("damage", known, freightTerms)).toBe("2027-08-19")
})

it("ends with the month where that is shorter", () => {
  const late = { shippedOn: "2026-05-31", dueOn: null, deliveredOn: "2026-05-31" } as const
  expect(fileBy("damage", late, freightTerms)).toBe("2027-02-28")
})

// 49 CFR 370.5(a): 30 days, 370.9(a): 120 days (from memory): December's 31 days and so on counted by hand
it("is acknowledged within 30 days and answered within 120", () => {
  expect(acknowledgedBy("2026-12-01")).toBe("2026-12-31")
  expect(answeredBy("2026-12-01")).toBe("2027-03-31")
})

const claimed: Claimed = {
  lines: [
    { pieces: 3, unitValue: "4.335" },
    { pieces: 1, unitValue: "100" },
  ],
  currency: "USD",
  freight: "20.00",
  shipmentValue: "226.02",
  declared: null,
  undeclared: { packages: 1, pounds: "12" },
}
const texts = (more: Partial<Claimed>, terms = parcelTerms) => {
  const { goods, freight, total, limit, expected } = claimAmounts({ ...claimed, ...more }, terms)
  return [goods, freight, total, limit, expected].map((one) => (one ? moneyText(one).amount : null))
}

// 3 × 4.335 = 13.005, 13.01 to the cent; 113.01 of 226.02 is a half: 10.00 of the freight
it.each([
  ["at the limit for a package", {}, parcelTerms, ["113.01", "10.00", "123.01", "100.00", "110.00"]],
  [
    "at what was declared",
    { declared: "500", undeclared: { packages: 0, pounds: "0" } },
    parcelTerms,
    ["113.01", "10.00", "123.01", "500.00", "123.01"],
  ],
  // 7.50 declared of one, and 2 × 40 for the others, of which 3 lb at 5 would be less
  [
    "at what was declared of one, and the limit for the others",
    { declared: "7.50", undeclared: { packages: 2, pounds: "3" } },
    { ...parcelTerms, perPackage: "40", perPound: "5" },
    ["113.01", "10.00", "123.01", "87.50", "97.50"],
  ],
  [
    "with no limit, since nothing was declared of one",
    { declared: "7.50", undeclared: { packages: 1, pounds: "3" } },
    freightTerms,
    ["113.01", "10.00", "123.01", null, "123.01"],
  ],
  ["with no limit", {}, freightTerms, ["113.01", "10.00", "123.01", null, "123.01"]],
  // 12 lb at 5 are 60, less than 100 for the package
  [
    "at the larger of two limits",
    {},
    { ...parcelTerms, perPound: "5" },
    ["113.01", "10.00", "123.01", "100.00", "110.00"],
  ],
  [
    "by the pound",
    {},
    { ...parcelTerms, perPackage: null, perPound: "5" },
    ["113.01", "10.00", "123.01", "60.00", "70.00"],
  ],
  ["without freight", {}, { ...parcelTerms, freight: false }, ["113.01", "0.00", "113.01", "100.00", "100.00"]],
  [
    "never more than all the freight",
    { shipmentValue: "50" },
    freightTerms,
    ["113.01", "20.00", "133.01", null, "133.01"],
  ],
  [
    "of goods worth nothing",
    { lines: [], shipmentValue: "0" },
    parcelTerms,
    ["0.00", "0.00", "0.00", "100.00", "0.00"],
  ],
] as const)("%s", (_, more, terms, amounts) => expect(texts(more, terms)).toEqual(amounts))

it("ends paid or withdrawn, and is filed before anything is answered", () => {
  const ends = claimStates.filter((state) => nextStates[state].length === 0)
  expect(ends).toEqual(["paid", "withdrawn"])
  expect(nextStates.draft).not.toContain("paid")
})
