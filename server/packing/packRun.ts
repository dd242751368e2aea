import { randomUUID } from "node:crypto"
import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, type Reason, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { compute } from "../compute/pool.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { openShipment } from "./index.ts"
import { packSuggested, suggestionInput } from "./suggestion.ts"

export interface PackedRun {
  /** Orders whose cartons are taken now, and those that had packages before. */
  readonly taken: readonly string[]
  readonly before: readonly string[]
  /** Orders that were left, each with why. */
  readonly left: readonly { readonly orderNumber: string; readonly why: readonly Reason[] }[]
}

/**
 * Takes the suggested cartons for every order of a run that is picked, worked out in the pool: they stand empty at the
 * bench and know what is to come into each. Orders that have packages are left as they are, so that it is safe to repeat;
 * what can't be packed is named and does not hold up the rest.
 */
export async function packRun(context: Context, number: number): Promise<Outcome<PackedRun>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const run = await db("pick_run").where({ number, warehouse_id: actor.warehouseId }).first("id")
  if (!run) return refused(reason("run.unknown", { run: number }))
  const orders = await db("pick_run_order as m")
    .join("sales_order as o", "o.id", "m.order_id")
    .where("m.run_id", run.id)
    .whereNull("o.cancelled_at")
    .orderBy("m.position")
    .select(
      "o.id",
      "o.order_number as orderNumber",
      db.raw("(SELECT COALESCE(SUM(l.ordered), 0) FROM order_line l WHERE l.order_id = o.id) AS ordered"),
      db.raw(
        "(SELECT COALESCE(SUM(a.picked), 0) FROM order_line l JOIN allocation a ON a.order_line_id = l.id WHERE l.order_id = o.id) AS picked",
      ),
    )
  const [taken, before]: [string[], string[]] = [[], []]
  const left: { orderNumber: string; why: readonly Reason[] }[] = []
  for (const order of orders) {
    if (Number(order.picked) < Number(order.ordered)) {
      left.push({ orderNumber: order.orderNumber, why: [reason("run.not-picked")] })
      continue
    }
    const known = await shipmentOf(db, order.id)
    if (known && (known.packages.length > 0 || known.state !== "open")) {
      before.push(order.orderNumber)
      continue
    }
    const outcome = await packAsSuggested(context, order.id, false, randomUUID())
    if (!outcome.ok) left.push({ orderNumber: order.orderNumber, why: outcome.reasons })
    else taken.push(order.orderNumber)
  }
  return accepted({ taken, before, left })
}

/**
 * Takes the suggested cartons for what is picked of an order and in no package yet, worked out in the pool: filled, or
 * empty and knowing what is to come into each. What can't be packed so is left, with why. A key counts once.
 */
export async function packAsSuggested(
  context: Context,
  orderId: OrderId,
  fill: boolean,
  key: string,
): Promise<Outcome<Shipment>> {
  const opened = await openShipment(context, orderId)
  if (!opened.ok) return opened
  const input = await suggestionInput(context.db, opened.value)
  if (input.loads.length === 0) return refused(reason("packing.by-hand"))
  const found = await compute("suggest", input)
  if (!found.ok) return found
  if (found.value.boxes.length === 0) return refused(...found.value.left.map((one) => one.why))
  const boxes = found.value.boxes.map((box) => ({
    code: box.code,
    placed: box.placed.map((place) => ({ ...place })),
  }))
  return packSuggested(context, orderId, boxes, fill, key)
}
