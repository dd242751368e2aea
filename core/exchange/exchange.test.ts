import { expect, it } from "vitest"
import { money } from "../money/index.ts"
import { exchange, exchangeTable } from "./index.ts"

const table = exchangeTable([
  { from: "EUR", to: "USD", on: "2026-11-02", rate: "1.10" },
  { from: "EUR", to: "USD", on: "2026-11-16", rate: "1.12" },
  { from: "USD", to: "CAD", on: "2026-11-10", rate: "1.40" },
  { from: "XDR", to: "USD", on: "2026-11-16", rate: "1.25" },
])
const told = (amount: string, from: string, to: string, day: string) => {
  const found = exchange(table, money(amount, from), to, day as never)
  return found && [found.value.amount.toFixed(4), found.on]
}

it.each([
  // the latest that is not after the day
  ["10", "EUR", "USD", "2026-11-15", ["11.0000", "2026-11-02"]],
  ["10", "EUR", "USD", "2026-11-16", ["11.2000", "2026-11-16"]],
  ["10", "EUR", "USD", "2026-11-01", null],
  // the other way around: 14 / 1.40
  ["14", "CAD", "USD", "2026-11-20", ["10.0000", "2026-11-10"]],
  // by way of the dollar: 10 × 1.12 × 1.40, as old as the older of both
  ["10", "EUR", "CAD", "2026-11-20", ["15.6800", "2026-11-10"]],
  ["5", "USD", "USD", "2026-11-20", ["5.0000", "2026-11-20"]],
  // 375 dollars are 300 special drawing rights
  ["375", "USD", "XDR", "2026-11-20", ["300.0000", "2026-11-16"]],
  ["5", "USD", "NZD", "2026-11-20", null],
] as const)("%s %s in %s on %s: %o", (amount, from, to, day, expected) =>
  expect(told(amount, from, to, day)).toEqual(expected),
)
