import type { Decimal } from "decimal.js"
import { type Money, money, roundMoney, sumMoney } from "../money/index.ts"
import { type Mass, sumMass, timesMass } from "../units/index.ts"
import type { CustomsFacts } from "./gaps.ts"

/** What of a line is in this shipment's packages. */
export interface ShippedLine extends CustomsFacts {
  readonly quantity: number
  readonly unitValue: Decimal
  readonly unitWeight: Mass
}

export interface InvoiceLine {
  readonly number: number
  readonly sku: string
  readonly description: string
  readonly hsCode: string
  readonly origin: string
  readonly quantity: number
  readonly unitValue: Money
  readonly value: Money
  readonly netWeight: Mass
}

/** The commercial invoice of one shipment; fields as the UN Layout Key orders them (UNECE Recommendations 1 and 6). */
export interface InvoiceModel {
  readonly number: string
  readonly date: string
  readonly seller: readonly string[]
  readonly consignee: readonly string[]
  readonly phone: string
  readonly incoterm: string
  readonly place: string
  readonly sourceNumber: string
  readonly purchaseOrder: string
  readonly carrier: string
  readonly service: string
  readonly trackingNumber: string
  readonly originCountry: string
  readonly destinationCountry: string
  readonly packages: number
  readonly kindOfPackages: "pallet" | "carton"
  readonly grossWeight: Mass
  readonly netWeight: Mass
  readonly currency: string
  readonly lines: readonly InvoiceLine[]
  readonly total: Money
  readonly signedBy: string
}

/**
 * The invoice's lines and sums from what is in the packages: each line's value is its quantity times the unit value,
 * rounded half up to the minor unit; the total is the sum of the rounded lines, the net weight that of the goods.
 */
export function invoiceLines(
  lines: readonly ShippedLine[],
  currency: string,
): { lines: InvoiceLine[]; total: Money; netWeight: Mass } {
  const shown = lines.map(
    (line, index): InvoiceLine => ({
      number: index + 1,
      sku: line.sku,
      description: line.description,
      hsCode: line.hsCode,
      origin: line.origin,
      quantity: line.quantity,
      unitValue: money(line.unitValue, currency),
      value: roundMoney(money(line.unitValue.mul(line.quantity), currency)),
      netWeight: timesMass(line.unitWeight, line.quantity),
    }),
  )
  return {
    lines: shown,
    total: sumMoney(
      shown.map((line) => line.value),
      currency,
    ),
    netWeight: sumMass(shown.map((line) => line.netWeight)),
  }
}
