import type { Decimal } from "decimal.js"
import { grouped } from "../lists/index.ts"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"
import { shareOut } from "../money/share.ts"
import { type Mass, sumMass, timesMass } from "../units/index.ts"
import type { CustomsFacts } from "./gaps.ts"

/** What of a line is in this shipment's packages. */
export interface ShippedLine extends CustomsFacts {
  readonly quantity: number
  /** Pieces of the same line that go with parts of the order before this one. */
  readonly before?: number
  readonly unitValue: Decimal
  /** Net mass of one base unit. */
  readonly unitWeight: Mass
}

export interface InvoiceLine {
  readonly number: number
  readonly sku: string
  readonly description: string
  readonly hsCode: string
  readonly origin: string
  readonly quantity: number
  /** UNECE Recommendation 20. */
  readonly unit: string
  readonly unitValue: Money
  readonly value: Money
  readonly netWeight: Mass
}

/** What customs ask for of all goods of one code and origin. */
export interface InvoiceSum {
  readonly hsCode: string
  readonly origin: string
  readonly quantity: number
  readonly netWeight: Mass
  readonly value: Money
}

/**
 * The invoice's lines and sums from what is in the packages: each line's value is what its pieces come to after this part
 * of the order, rounded half up to the minor unit, less what they came to before it, so that the invoices of an order in
 * parts add up to the order to the cent. The total is the sum of the rounded lines, the net weight that of the goods.
 */
export function invoiceLines(
  lines: readonly ShippedLine[],
  currency: string,
): { lines: InvoiceLine[]; total: Money; netWeight: Mass; sums: InvoiceSum[] } {
  const upTo = (unitValue: Decimal, pieces: number) => roundMoney(money(unitValue.mul(pieces), currency)).amount
  const shown = lines.map((line, index): InvoiceLine => {
    const before = line.before ?? 0
    return {
      number: index + 1,
      sku: line.sku,
      description: describeGoods(line),
      hsCode: line.hsCode,
      origin: line.origin,
      quantity: line.quantity,
      unit: line.unit || "C62",
      unitValue: money(line.unitValue, currency),
      value: money(upTo(line.unitValue, before + line.quantity).sub(upTo(line.unitValue, before)), currency),
      netWeight: timesMass(line.unitWeight, line.quantity),
    }
  })
  return {
    lines: shown,
    total: sumMoney(
      shown.map((line) => line.value),
      currency,
    ),
    netWeight: sumMass(shown.map((line) => line.netWeight)),
    sums: sumsByCode(shown, currency),
  }
}

/** What goods are, what of and for what, in the words of customs. */
export const describeGoods = ({
  description,
  material,
  use,
}: Pick<CustomsFacts, "description" | "material" | "use">): string =>
  [description, material, use].filter(Boolean).join(", ")

function sumsByCode(lines: readonly InvoiceLine[], currency: string): InvoiceSum[] {
  const byKey = grouped(lines, (line) => `${line.hsCode} ${line.origin}`)
  return [...byKey.keys()].sort().map((key) => {
    const own = byKey.get(key) as InvoiceLine[]
    const [first] = own as [InvoiceLine]
    return {
      hsCode: first.hsCode,
      origin: first.origin,
      quantity: own.reduce((sum, line) => sum + line.quantity, 0),
      netWeight: sumMass(own.map((line) => line.netWeight)),
      value: sumMoney(
        own.map((line) => line.value),
        currency,
      ),
    }
  })
}

/** What an order's invoice adds to its goods and takes off them, in the order in which it is written. */
export const invoiceCharges = ["discount", "packing", "freight", "insurance"] as const
export type InvoiceCharge = (typeof invoiceCharges)[number]

/**
 * The share that one part of an order has of an amount of the whole, by what the parts are worth; the last has what is
 * left, so that all shares add up to the amount.
 *
 * @param worths what each part's goods are worth, in the order of the parts
 */
export function shareOfPart(amount: Money, worths: readonly Decimal[], part: number): Money {
  return shareOut(amount, worths.length > 0 ? worths : [1])[part] ?? money(0, amount.currency)
}
