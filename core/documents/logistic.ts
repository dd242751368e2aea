import { type Mass, massIn } from "../units/index.ts"

/** A GS1 logistic label, ready to be drawn. */
export interface LogisticLabelModel {
  /** The language that its words are in; English where it is not said. */
  readonly language?: string
  readonly sscc: string
  readonly sender: readonly string[]
  readonly receiver: readonly string[]
  readonly facts: readonly { readonly name: string; readonly text: string }[]
  /** Element strings with brackets, one a symbol, from the top; that of the SSCC is drawn below them. */
  readonly symbols: readonly string[]
}

/** What is known of a logistic unit for its label. */
export interface LogisticUnit {
  readonly sscc: string
  /** GTIN and count where everything in it is of one item, and its lot and date where those are one too. */
  readonly content: {
    readonly gtin: string
    readonly count: number
    readonly lot: string | null
    readonly expiresOn: string | null
  } | null
  readonly gross: Mass
  /** The unit that the weight is said in. */
  readonly unit: "lb" | "kg"
  readonly purchaseOrder: string
  readonly postalCode: string
  /** ISO 3166-1 numeric code of the receiver's country; null where it is the sender's. */
  readonly countryNumber: string | null
}

/** Letters and digits that element strings may hold beside the signs that nobody types in order numbers (GS1 set 82). */
const sound = (text: string, most: number): string => text.replace(/[^A-Za-z0-9\-./]/g, "").slice(0, most)

/**
 * The element strings of a logistic unit beside its SSCC: content with count, lot and expiry; gross weight; the
 * customer's order; where it goes. Application identifiers 02 with 37, 10, 17, 330n or 340n, 400, 420 or 421: GS1 General
 * Specifications (from memory). Elements of variable length come last in their symbol.
 */
export function elementStrings(unit: LogisticUnit): string[] {
  const symbols: string[] = []
  const { content } = unit
  if (content) {
    const date = content.expiresOn ? `(17)${content.expiresOn.slice(2).replaceAll("-", "")}` : ""
    symbols.push(`(02)${content.gtin}${date}(37)${content.count}`)
    if (content.lot) symbols.push(`(10)${sound(content.lot, 20)}`)
  }
  // six digits with as many decimals as fit after rounding: 340n pounds, 330n kilograms
  const figure = massIn(unit.gross, unit.unit)
  const shown = (decimals: number) =>
    figure
      .mul(10 ** decimals)
      .toDecimalPlaces(0, 4)
      .toFixed(0)
      .padStart(6, "0")
  const decimals = [2, 1, 0].find((n) => shown(n).length === 6) ?? 0
  const weight = `(${unit.unit === "lb" ? "340" : "330"}${decimals})${shown(decimals)}`
  const to = unit.countryNumber
    ? `(421)${unit.countryNumber}${sound(unit.postalCode, 9)}`
    : `(420)${sound(unit.postalCode, 20)}`
  symbols.push(`${weight}${unit.postalCode ? to : ""}`)
  const order = sound(unit.purchaseOrder, 30)
  if (order) symbols.push(`(400)${order}`)
  return symbols
}
