import type { OrderId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context, may } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import type { SalesOrderRow } from "../db/tables.ts"
import { newId } from "../db/there.ts"
import { leadOf } from "../orders/joined.ts"
import { labelsAskedFor } from "../orders/labels.ts"
import { followRuns } from "../orders/membership.ts"
import { type MovedLine, splitOff } from "../orders/parts.ts"
import { type Shipment, shipmentOf } from "../packages/shipment.ts"
import { resizePallet } from "../packing/change.ts"
import { routingOf, ruleBook } from "../rules/book.ts"
import { recheck } from "./recheck.ts"

/** An open shipment of one order, locked with its order; or why it can't be split. */
async function splittable(
  trx: Knex,
  { actor }: Context,
  orderId: OrderId,
): Promise<Outcome<{ order: SalesOrderRow; shipment: Shipment }>> {
  const order = await trx("sales_order").where({ id: orderId, warehouse_id: actor.warehouseId }).forUpdate().first()
  if (!order) return refused(reason("order.unknown"))
  await trx("shipment").where({ order_id: orderId }).forUpdate().select("id")
  const shipment = await shipmentOf(trx, orderId)
  if (!shipment) return refused(reason("pack.no-packages"))
  if (shipment.members.length > 1) return refused(reason("short.joined"))
  if (shipment.state !== "open" || (await labelsAskedFor(trx, orderId)))
    return refused(reason("pack.not-open", { state: shipment.state }))
  if (!routingOf(await ruleBook(trx), order.customer_id).split && !may(actor, "orders.override"))
    return refused(reason("pack.complete-only"))
  return accepted({ order, shipment })
}

/** Gives picked pieces of a line to the line of a part: as many as go with it, the last allocation first. */
async function moveAllocations(trx: Knex, from: number, to: number, picked: number, unpicked: number): Promise<void> {
  if (from === to) return
  let [taken, held] = [picked, unpicked]
  for (const row of await trx("allocation").where({ order_line_id: from }).orderBy("id", "desc").forUpdate()) {
    const withIt = Math.min(taken, row.picked)
    const waiting = Math.min(held, row.quantity - row.picked)
    if (withIt + waiting === 0) continue
    taken -= withIt
    held -= waiting
    const unverified = Math.max(0, Math.min(row.unverified, withIt))
    const { id, ...rest } = row
    await trx("allocation").insert({
      ...rest,
      order_line_id: to,
      quantity: withIt + waiting,
      picked: withIt,
      unverified,
    })
    const left = row.quantity - withIt - waiting
    if (left === 0) await trx("allocation").where({ id }).delete()
    else
      await trx("allocation")
        .where({ id })
        .update({
          quantity: left,
          picked: row.picked - withIt,
          unverified: Math.min(row.unverified - unverified, row.picked - withIt),
        })
  }
}

/**
 * Splits packages off into a shipment of their own: a part of the same order, with its own number, its goods picked and
 * packed. Refused for all packages, for combined orders, and where the customer wants orders complete (the lead may).
 */
export async function splitShipment(
  context: Context,
  ofOrder: number,
  numbers: readonly number[],
): Promise<Outcome<{ orderNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const orderId = await leadOf(db, ofOrder)
  return inTransaction(db, async (trx): Promise<Outcome<{ orderNumber: string }>> => {
    const found = await splittable(trx, context, orderId)
    if (!found.ok) return found
    const { order, shipment } = found.value
    // what stands on a pallet goes with it
    const chosen = shipment.packages.filter(
      (one) => numbers.includes(one.number) || (one.on !== null && numbers.includes(one.on)),
    )
    if (chosen.length === 0) return refused(reason("split.nothing-chosen"))
    if (chosen.some((one) => one.state !== "open"))
      return refused(reason("pack.package-closed", { number: chosen.find((one) => one.state !== "open")?.number ?? 0 }))
    const quantities = new Map<number, number>()
    for (const one of chosen)
      one.contents.forEach((content, index) => {
        const line = one.lineIds[index] as number
        quantities.set(line, (quantities.get(line) ?? 0) + content.quantity)
      })
    const moved: MovedLine[] = [...quantities].map(([lineId, quantity]) => ({ lineId, quantity }))
    if (moved.length === 0) return refused(reason("split.nothing-chosen"))
    const staying = shipment.lines.some((line) => line.ordered > (quantities.get(line.id) ?? 0))
    if (!staying) return refused(reason("split.all-chosen"))
    const part = await splitOff(trx, order, actor.warehouseId, moved)
    for (const { lineId, quantity } of moved)
      await moveAllocations(trx, lineId, part.lines.get(lineId) as number, quantity, 0)
    const shipmentId = newId(
      await trx("shipment").insert({
        order_id: part.id,
        warehouse_id: actor.warehouseId,
        // a value that was typed was that of all the goods: each part is declared at its own worth
        wishes: JSON.stringify({ ...shipment.wishes, declared: null }),
      }),
    )
    let next = 1
    for (const one of chosen) {
      await trx("package")
        .where({ id: one.id })
        .update({
          shipment_id: shipmentId,
          number: next,
          ...(one.on !== null && !numbers.includes(one.on) ? { parent_id: null } : {}),
        })
      next += 1
      for (const lineId of one.lineIds)
        await trx("package_content")
          .where({ package_id: one.id, order_line_id: lineId })
          .update({ order_line_id: part.lines.get(lineId) as number })
    }
    await trx("sales_order").where({ id: part.id }).update({ next_package: next })
    await trx("shipment")
      .where({ id: shipment.id })
      .update({ wishes: JSON.stringify({ ...shipment.wishes, declared: null }), version: shipment.version + 1 })
    for (const one of chosen) await resizePallet(trx, shipment, one.on)
    await tell(trx, context, order, part)
    await recheck(trx, orderId, actor, now)
    await recheck(trx, part.id, actor, now)
    return accepted({ orderNumber: part.orderNumber })
  })
}

async function tell(
  trx: Knex,
  { actor, now }: Context,
  order: { id: number; order_number: string; version: number },
  part: { id: number; orderNumber: string },
): Promise<void> {
  await trx("sales_order")
    .where({ id: order.id })
    .update({ version: order.version + 1 })
  await record(trx, actor, now, { action: "order.part-made", orderId: order.id, detail: { part: part.orderNumber } })
  await record(trx, actor, now, { action: "order.split-off", orderId: part.id, detail: { from: order.order_number } })
}

/**
 * Lets what is packed go by itself: what is not packed becomes a part of the same order, with what is picked and held of
 * it, and stays to be picked and packed. Refused where nothing is packed or all is, and where the customer wants orders
 * complete (the lead may).
 */
export async function shipWhatIsPacked(context: Context, ofOrder: number): Promise<Outcome<{ orderNumber: string }>> {
  const { db, actor, now } = context
  authorise(actor, "orders.work")
  const orderId = await leadOf(db, ofOrder)
  return inTransaction(db, async (trx): Promise<Outcome<{ orderNumber: string }>> => {
    const found = await splittable(trx, context, orderId)
    if (!found.ok) return found
    const { order, shipment } = found.value
    if (shipment.lines.every((line) => line.packed === 0)) return refused(reason("pack.nothing-packed"))
    const moved = shipment.lines
      .filter((line) => line.packed < line.ordered)
      .map((line) => ({ lineId: line.id, quantity: line.ordered - line.packed, picked: line.picked - line.packed }))
    if (moved.length === 0) return refused(reason("pack.all-packed"))
    const part = await splitOff(trx, order, actor.warehouseId, moved)
    for (const one of moved)
      await moveAllocations(
        trx,
        one.lineId,
        part.lines.get(one.lineId) as number,
        one.picked,
        one.quantity - one.picked,
      )
    // what was picked of it waits in the order's tote
    await trx("tote").where({ order_id: orderId }).update({ order_id: part.id })
    await followRuns(trx, part.id)
    await tell(trx, context, order, part)
    await recheck(trx, orderId, actor, now)
    await recheck(trx, part.id, actor, now)
    return accepted({ orderNumber: part.orderNumber })
  })
}
