import { createHash } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import type { Knex } from "knex"
import type { Right } from "../actors/index.ts"

/** Stops that a person may let pass, who may, and by which of their figures the same stop is told again. */
export const waivable: Readonly<Record<string, { readonly right: Right; readonly by: readonly string[] }>> = {
  "stop.purchase-order-twice": { right: "orders.work", by: ["order"] },
  "stop.quantity-stock": { right: "orders.work", by: ["line", "sku", "ordered"] },
  "stop.quantity-history": { right: "orders.work", by: ["line", "sku", "ordered"] },
  "stop.rule": { right: "orders.work", by: ["rule"] },
  "stop.promise": { right: "orders.work", by: ["promised"] },
  // a house that has a name and no number; the address service may confirm it as well
  "address.no-house-number": { right: "orders.release-stop", by: ["street"] },
  "address.state-postal": { right: "orders.release-stop", by: ["state", "postalCode"] },
  "stop.credit": { right: "orders.release-stop", by: ["customer"] },
  "stop.screening": { right: "orders.release-stop", by: ["list", "reference", "name", "compared"] },
}

/** What tells the very stop that was let pass from others of its kind. */
export const passedKey = (one: Reason): string =>
  createHash("sha256")
    .update(JSON.stringify((waivable[one.code]?.by ?? []).map((name) => one.values[name] ?? "")))
    .digest("hex")

/** The reasons that nobody has let pass for this order. */
export async function notWaived(trx: Knex, orderId: OrderId, reasons: readonly Reason[]): Promise<Reason[]> {
  if (!reasons.some((one) => one.code in waivable)) return [...reasons]
  const rows = await trx("order_waiver").where({ order_id: orderId }).select("code", "detail_hash")
  const passed = new Set(rows.map((row) => `${row.code} ${row.detail_hash}`))
  return reasons.filter((one) => !passed.has(`${one.code} ${passedKey(one)}`))
}
