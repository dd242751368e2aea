/** A stop on a paper pick list. */
export interface PickListRow {
  readonly bin: string
  readonly item: string
  readonly sku: string
  readonly lot: string
  /** GTIN of one piece in 14 digits, or null. */
  readonly gtin: string | null
  readonly quantity: number
  /** The same in whole cases and loose pieces, such as `2 cases + 4`; empty where there are no cases. */
  readonly cases: string
  /** Totes, or the order where there are none. */
  readonly into: string
}

export interface PickListModel {
  /** What is scanned to open it: a run's `R101`, or an order's number. */
  readonly number: string
  readonly title: string
  readonly facts: readonly string[]
  readonly rows: readonly PickListRow[]
  readonly pieces: number
}

/** A quantity in whole cases and what is left; empty for less than a case, or without cases. */
export function inCases(quantity: number, perCase: number): string {
  const cases = perCase > 1 ? Math.floor(quantity / perCase) : 0
  if (cases === 0) return ""
  const loose = quantity - cases * perCase
  return `${cases} × ${perCase}${loose > 0 ? ` + ${loose}` : ""}`
}

export interface SlipRow {
  readonly line: string
  readonly sku: string
  readonly description: string
  readonly lots: string
  readonly ordered: number
  readonly shipped: number
  /** Shipped with other packages, and still to come. */
  readonly elsewhere: number
  readonly backOrdered: number
  readonly cancelled: number
  /** Unit price as text; empty where prices are not shown. */
  readonly price: string
}

/** A packing slip of a package, of a shipment, or of an order before it is packed; all text ready to print. */
export interface SlipModel {
  /** The language that it is written in; English where it is not said. */
  readonly language?: string
  readonly letterhead: readonly string[]
  readonly number: string
  /** `Package 2 of 3`, or empty. */
  readonly piece: string
  readonly shipTo: readonly string[]
  readonly facts: readonly { readonly name: string; readonly text: string }[]
  readonly rows: readonly SlipRow[]
  readonly withPrices: boolean
  readonly withLots: boolean
  readonly message: string
}

/** What stands on a slip, as a setting of the warehouse; a customer's instruction overrides it. */
export interface SlipSettings {
  /** One for each package, or one for the shipment. */
  readonly per: "package" | "shipment"
  readonly prices: boolean
  readonly lots: boolean
  /** Lines that will come later. */
  readonly backOrders: boolean
  readonly message: string
  /** Lines of the customer's own letterhead; none: ours. */
  readonly letterhead: readonly string[]
}

export const usualSlip: SlipSettings = {
  per: "shipment",
  prices: false,
  lots: true,
  backOrders: true,
  message: "",
  letterhead: [],
}

/** The settings that hold for an order: the usual, then what the warehouse says, then what the customer says. */
export const slipSettings = (warehouse: Partial<SlipSettings>, customer: Partial<SlipSettings>): SlipSettings => ({
  ...usualSlip,
  ...warehouse,
  ...customer,
})
