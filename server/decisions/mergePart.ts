import type { OrderId } from "core/ids/index.ts"
import type { Knex } from "knex"
import { there } from "../db/there.ts"
import { returnPackaging } from "../packages/used.ts"

/** Lines of a part that go on as lines of the whole: by the part's line, the line that its pieces are of then. */
type Lines = ReadonlyMap<number, number>

/**
 * Takes what a part has in work at the warehouse of its whole back into the whole, in the caller's transaction: its
 * pieces on the shelf and in totes, its takes, its runs and its packages, which are open again. The part's lines are
 * then gone or the whole's. Both orders are locked, and neither has labels.
 */
export async function mergePart(trx: Knex, orderId: OrderId, partId: OrderId): Promise<void> {
  const lines = await mergeLines(trx, orderId, partId)
  await trx("pick_take").where({ order_id: partId }).update({ order_id: orderId })
  await trx("tote").where({ order_id: partId }).update({ order_id: orderId })
  await mergeRuns(trx, orderId, partId)
  await mergePackages(trx, orderId, partId, lines)
}

/** Puts pieces back into the line that they were taken from; a line that went whole comes back whole. */
async function mergeLines(trx: Knex, orderId: OrderId, partId: OrderId): Promise<Lines> {
  const own = await trx("order_line").where({ order_id: orderId })
  const lines = new Map<number, number>()
  for (const line of await trx("order_line").where({ order_id: partId })) {
    const same = own.find((other) => other.line_number === line.line_number && other.item_id === line.item_id)
    lines.set(line.id, same?.id ?? line.id)
    if (!same) {
      await trx("order_line").where({ id: line.id }).update({ order_id: orderId })
      continue
    }
    await trx("order_line").where({ id: same.id }).increment("ordered", line.ordered)
    for (const row of await trx("allocation").where({ order_line_id: line.id }).orderBy("id").forUpdate()) {
      const there = await trx("allocation")
        .where({ order_line_id: same.id, stock_id: row.stock_id })
        .where((query) => (row.run_id === null ? query.whereNull("run_id") : query.where({ run_id: row.run_id })))
        .first("id")
      if (!there) {
        await trx("allocation").where({ id: row.id }).update({ order_line_id: same.id })
        continue
      }
      await trx("allocation")
        .where({ id: there.id })
        .update({
          quantity: trx.raw("quantity + ?", [row.quantity]),
          picked: trx.raw("picked + ?", [row.picked]),
          unverified: trx.raw("unverified + ?", [row.unverified]),
        })
      await trx("pick_take").where({ allocation_id: row.id }).update({ allocation_id: there.id })
      await trx("allocation").where({ id: row.id }).delete()
    }
    await trx("pick_take").where({ order_line_id: line.id }).update({ order_line_id: same.id })
  }
  return lines
}

async function mergeRuns(trx: Knex, orderId: OrderId, partId: OrderId): Promise<void> {
  for (const run of await trx("pick_run_order").where({ order_id: partId }).select("run_id", "position"))
    await trx("pick_run_order")
      .insert({ run_id: run.run_id, order_id: orderId, position: run.position })
      .onConflict(["run_id", "order_id"])
      .ignore()
  await trx("pick_run_order").where({ order_id: partId }).delete()
}

/** The part's packages become the whole's, under its next numbers; all are open, since each now misses what the other has. */
async function mergePackages(trx: Knex, orderId: OrderId, partId: OrderId, lines: Lines): Promise<void> {
  const [from, to] = await Promise.all(
    [partId, orderId].map((id) => trx("shipment").where({ order_id: id, state: "open" }).forUpdate().first()),
  )
  for (const one of [from, to]) {
    if (!one) continue
    await returnPackaging(trx, { id: one.id, warehouseId: one.warehouse_id })
    await trx("package").where({ shipment_id: one.id, state: "closed" }).update({ state: "open" })
    await trx("shipment").where({ id: one.id }).increment("version", 1)
  }
  if (from) {
    const packages = await trx("package").where({ shipment_id: from.id }).orderBy("number").select("id", "state")
    for (const { id } of packages)
      for (const content of await trx("package_content").where({ package_id: id }))
        await trx("package_content")
          .where({ package_id: id, order_line_id: content.order_line_id })
          .update({ order_line_id: lines.get(content.order_line_id) ?? content.order_line_id })
    const order = there(await trx("sales_order").where({ id: orderId }).first("next_package"))
    let next: number = order.next_package
    for (const { id, state } of packages) {
      if (state === "void") continue
      await trx("package")
        .where({ id })
        // what was planned for it was planned of the part's lines
        .update({ number: next, planned: null, ...(to ? { shipment_id: to.id } : {}) })
      next += 1
    }
    if (to) await trx("shipment").where({ id: from.id }).update({ state: "void" })
    else await trx("shipment").where({ id: from.id }).update({ order_id: orderId })
    await trx("sales_order").where({ id: orderId }).update({ next_package: next })
  }
  // a line that is gone has nothing any more
  for (const [id, same] of lines) if (id !== same) await trx("order_line").where({ id }).delete()
}
