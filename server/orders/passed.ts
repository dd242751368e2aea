import { createHash } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { grouped } from "core/lists/index.ts"
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

/** What people have let pass, by order. */
export async function passedOf(trx: Knex, orderIds: readonly OrderId[]): Promise<Map<number, ReadonlySet<string>>> {
  const rows = await trx("order_waiver")
    .whereIn("order_id", [...orderIds])
    .select("order_id", "code", "detail_hash")
  const keyOf = (row: (typeof rows)[number]) => `${row.code} ${row.detail_hash}`
  return new Map([...grouped(rows, (row) => row.order_id)].map(([id, own]) => [id, new Set(own.map(keyOf))]))
}

/** The reasons that nobody has let pass. */
export const notPassed = (passed: ReadonlySet<string> | undefined, reasons: readonly Reason[]): Reason[] =>
  reasons.filter((one) => !passed?.has(`${one.code} ${passedKey(one)}`))
