import type { Decimal } from "decimal.js"
import { type Address, addressGaps } from "../address/index.ts"
import {
  type CustomsDetails,
  type CustomsFacts,
  customsGaps,
  detailGaps,
  exportFiling,
  filingGaps,
  noDetails,
  type Terms,
} from "../customs/index.ts"
import { type DangerousFacts, dangerousFlaws } from "../dangerous/index.ts"
import { type Reason, reason, reasonOf } from "../refusal/index.ts"
import type { ScreeningHit } from "../screening/index.ts"
import { type Mass, mass, sumMass, timesMass } from "../units/index.ts"
import { type KnownQuantities, unusualQuantity } from "./quantity.ts"

/** What the checks look at in a line; `item` is null when the SKU is not known. */
export interface CheckedLine {
  readonly lineNumber: number
  readonly sku: string
  /** What the line still needs of the stock, and how much of that is free. */
  readonly quantity: number
  readonly available: number
  /** All that the line is for; what it still needs where nothing else is said. */
  readonly pieces?: number
  /** Stock that lies there and may not be taken, with why. */
  readonly withheld?: readonly Reason[]
  /** All that was ordered, and what is known of the item, where an unusual quantity is asked about. */
  readonly ordered?: { readonly pieces: number; readonly known: KnownQuantities }
  readonly item: null | {
    readonly unitWeight: Mass | null
    /** Whether all its edges are known. */
    readonly sized: boolean
    readonly dangerous: DangerousFacts | null
    readonly customs: Pick<CustomsFacts, "description" | "hsCode" | "origin" | "unitValue">
  }
}

/** What a person or the order's source wants of it, whatever its data say. */
export interface Wanted {
  readonly heldByHand: boolean
  /** The source's own state where it means that the order is not to be shipped, such as "on hold". */
  readonly sourceState: string | null
  /** A change or cancellation at the source that came after work had begun. */
  readonly change: { readonly kind: "changed" | "cancelled"; readonly cameWith: string } | null
  /** An outside warehouse that does not ship it. */
  readonly outsideRefused?: { readonly warehouse: string; readonly why: string } | null
}

export interface CheckedOrder extends Wanted {
  readonly shipTo: Address
  /** States that its postal code lies in, where that is known. */
  readonly postalStates?: readonly string[]
  /** Country of the warehouse that ships. */
  readonly from: string
  readonly terms: Terms
  /** What is said of the order for customs besides its goods. */
  readonly customs?: CustomsDetails
  /** Whether a paper of one's own is attached. */
  readonly attached?: boolean
  /** US dollars for one unit of the order's currency, for the limit of the export filing; null: nobody knows. */
  readonly toUsd?: Decimal | null
  /** Words of the house that say nothing of goods. */
  readonly vague?: ReadonlySet<string>
  readonly lines: readonly CheckedLine[]
  /** Rows of the source's file that were refused, so that the order is not whole. */
  readonly refusedRows: readonly Reason[]
  /** Another order of the same customer with the same purchase-order number, if there is one. */
  readonly samePurchaseOrder: string | null
  /** The customer, where nothing may go to it on account. */
  readonly creditStop: { readonly customer: string; readonly note: string } | null
  readonly screening: readonly ScreeningHit[]
  /** Names of the rules that stop it. */
  readonly ruleHolds?: readonly string[]
  /** Set where no service arrives by the promise. */
  readonly promise: { readonly promised: string; readonly earliest: string; readonly service: string } | null
}

/** Stops that stand whatever the order's data say. */
export function stopsByHand({ heldByHand, sourceState, change, outsideRefused }: Wanted): Reason[] {
  const reasons: Reason[] = []
  if (outsideRefused) reasons.push(reason("stop.outside-refused", { ...outsideRefused }))
  if (heldByHand) reasons.push(reason("stop.by-hand"))
  if (change) {
    const file = { file: change.cameWith }
    reasons.push(
      change.kind === "cancelled" ? reason("stop.cancelled-at-source", file) : reason("stop.changed-at-source", file),
    )
  }
  if (sourceState !== null) reasons.push(reason("stop.source-state", { state: sourceState }))
  return reasons
}

/**
 * Why an order can't be released, in the order in which a clerk would look; empty when it can. A stop ends by itself
 * when its reason is no longer here.
 */
export function stopReasons(order: CheckedOrder): Reason[] {
  const reasons = stopsByHand(order)
  for (const row of order.refusedRows) reasons.push(reasonOf("stop.row-refused", { ...row.values, why: row.code }))
  reasons.push(...addressGaps(order.shipTo, order.postalStates))
  if (order.shipTo.country !== order.from) reasons.push(...borderGaps(order))
  for (const line of order.lines) {
    const at = { line: line.lineNumber, sku: line.sku }
    if (!line.item) reasons.push(reason("stop.item-unknown", at))
    else if (line.item.dangerous) reasons.push(...dangerousFlaws(line.item.dangerous, at))
    const asked = line.ordered && unusualQuantity(at, line.ordered.pieces, line.ordered.known)
    if (asked) reasons.push(asked)
    if (line.item && !line.item.unitWeight) reasons.push(reason("stop.weight-missing", at))
    if (line.item && !line.item.sized) reasons.push(reason("stop.size-missing", at))
    if (line.item && line.available < line.quantity) {
      reasons.push(reason("stop.stock-short", { ...at, ordered: line.quantity, available: line.available }))
      for (const one of line.withheld ?? []) reasons.push(reasonOf(one.code, { ...one.values, ...at }))
    }
  }
  if (order.creditStop) reasons.push(reason("stop.credit", { ...order.creditStop }))
  for (const hit of order.screening)
    reasons.push(
      reason("stop.screening", {
        list: hit.party.list,
        reference: hit.party.reference,
        name: hit.party.name,
        compared: hit.compared,
      }),
    )
  if (order.samePurchaseOrder) reasons.push(reason("stop.purchase-order-twice", { order: order.samePurchaseOrder }))
  for (const rule of order.ruleHolds ?? []) reasons.push(reason("stop.rule", { rule }))
  if (order.promise) reasons.push(reason("stop.promise", { ...order.promise }))
  return reasons
}

/** What an order lacks for the border that it goes over, as far as that is known before it is packed. */
function borderGaps(order: CheckedOrder): Reason[] {
  const details = order.customs ?? noDetails
  const known = order.lines.flatMap((line) => (line.item ? [{ line, customs: line.item.customs }] : []))
  const facts = known.map(
    ({ line, customs }): CustomsFacts => ({ lineNumber: line.lineNumber, sku: line.sku, ...customs }),
  )
  const values = known.flatMap(({ line, customs: { hsCode, unitValue } }) =>
    unitValue && order.toUsd
      ? [{ code: hsCode, usd: unitValue.mul(line.pieces ?? line.quantity).mul(order.toUsd) }]
      : [],
  )
  const filing = exportFiling({
    from: order.from,
    to: order.shipTo.country,
    transit: details.transit,
    licensed: details.licence !== "",
    values,
  })
  return [
    ...customsGaps(order.shipTo, order.terms, facts, order.vague),
    ...detailGaps(order.terms, details, order.attached ?? false),
    ...filingGaps(filing, details.itn, order.shipTo.country),
  ]
}

/** The weight of the goods of an order, without packaging; lines without a weight count nothing. */
export const goodsWeight = (lines: readonly CheckedLine[]): Mass =>
  sumMass(lines.map((line) => timesMass(line.item?.unitWeight ?? mass(0, "kg"), line.quantity)))
