import { type Address, addressGaps } from "../address/index.ts"
import { type CustomsFacts, customsGaps, type Terms } from "../customs/index.ts"
import { type Reason, reason } from "../refusal/index.ts"
import { type Mass, mass, sumMass, timesMass } from "../units/index.ts"

/** What the checks look at in a line; `item` is null when the SKU is not known. */
export interface CheckedLine {
  readonly lineNumber: number
  readonly sku: string
  readonly quantity: number
  readonly available: number
  readonly item: null | {
    readonly unitWeight: Mass | null
    readonly unNumber: string | null
    readonly customs: Pick<CustomsFacts, "description" | "hsCode" | "origin" | "unitValue">
  }
}

export interface CheckedOrder {
  readonly shipTo: Address
  /** Country of the warehouse that ships. */
  readonly from: string
  readonly terms: Terms
  readonly lines: readonly CheckedLine[]
  /** Rows of the source's file that were refused, so that the order is not whole. */
  readonly refusedRows: readonly Reason[]
  /** Another order of the same customer with the same purchase-order number, if there is one. */
  readonly samePurchaseOrder: string | null
  readonly heldByHand: boolean
}

/**
 * Why an order can't be released, in the order in which a clerk would look; empty when it can. A stop ends by itself
 * when its reason is no longer here. Dangerous goods stay stopped: their papers are not made here yet.
 */
export function stopReasons(order: CheckedOrder): Reason[] {
  const reasons: Reason[] = []
  if (order.heldByHand) reasons.push(reason("stop.by-hand"))
  for (const row of order.refusedRows) reasons.push(reason("stop.row-refused", { ...row.values, why: row.code }))
  reasons.push(...addressGaps(order.shipTo))
  if (order.shipTo.country !== order.from) {
    const facts = order.lines.flatMap((line): CustomsFacts[] =>
      line.item ? [{ lineNumber: line.lineNumber, sku: line.sku, ...line.item.customs }] : [],
    )
    reasons.push(...customsGaps(order.shipTo, order.terms, facts))
  }
  for (const line of order.lines) {
    const at = { line: line.lineNumber, sku: line.sku }
    if (!line.item) reasons.push(reason("stop.item-unknown", at))
    else if (line.item.unNumber) reasons.push(reason("stop.dangerous.papers", { ...at, unNumber: line.item.unNumber }))
    else if (!line.item.unitWeight) reasons.push(reason("stop.weight-missing", at))
    if (line.item && line.available < line.quantity) {
      reasons.push(reason("stop.stock-short", { ...at, ordered: line.quantity, available: line.available }))
    }
  }
  if (order.samePurchaseOrder) reasons.push(reason("stop.purchase-order-twice", { order: order.samePurchaseOrder }))
  return reasons
}

/** The weight of the goods of an order, without packaging; lines without a weight count nothing. */
export const goodsWeight = (lines: readonly CheckedLine[]): Mass =>
  sumMass(lines.map((line) => timesMass(line.item?.unitWeight ?? mass(0, "kg"), line.quantity)))
