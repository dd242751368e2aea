import { localTime } from "core/calendar/index.ts"
import type { CollectionId, OrderId, PackageId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { there } from "../db/there.ts"
import { collectionById } from "../setup/collections.ts"
import { warehouseById } from "../setup/warehouse.ts"
import { stoppedShipments } from "./packages.ts"

/** Puts a package on the truck of a collection by its SSCC or name. Another truck's package is refused by its door. */
export async function load(
  context: Context,
  collectionId: CollectionId,
  code: { sscc: string } | { orderNumber: string; number: number },
  scanId: string,
): Promise<Outcome<{ name: string; again: boolean }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx) => {
    const collection = await collectionById(trx, actor.warehouseId, collectionId)
    if (!collection) return refused(reason("dock.no-such-collection"))
    const query = trx("package as p")
      .join("shipment as h", "h.id", "p.shipment_id")
      .join("sales_order as o", "o.id", "h.order_id")
      .where("h.warehouse_id", actor.warehouseId)
    const row = await ("sscc" in code
      ? query.where("p.sscc", code.sscc)
      : query.where({ "o.order_number": code.orderNumber, "p.number": code.number })
    ).first(
      "p.id",
      "p.parent_id",
      "p.state",
      "p.collection_id",
      "p.number",
      "o.order_number",
      "o.id as order_id",
      "h.state as shipment_state",
    )
    if (!row)
      return refused(
        reason("dock.no-such-package", { code: "sscc" in code ? code.sscc : `${code.orderNumber}-${code.number}` }),
      )
    const name = `${row.order_number}-${row.number}`
    if (collection.closedAt) return refused(reason("dock.closed", { door: collection.door }))
    if (!["labelled", "left-behind", "on-truck", "gone"].includes(row.state))
      return refused(reason("dock.not-labelled", { package: name }))
    if (row.parent_id) {
      const under = there(await trx("package").where({ id: row.parent_id }).first("number"))
      return refused(reason("dock.on-pallet", { package: name, pallet: `${row.order_number}-${under.number}` }))
    }
    if (row.shipment_state === "voiding") return refused(reason("dock.voiding", { package: name }))
    if (row.state === "gone") return refused(reason("dock.already-gone", { package: name }))
    const stopped = (await stoppedShipments(trx, [row.order_id])).get(row.order_id)
    if (stopped) return refused(reason("dock.keep-here", { package: name }), ...stopped)
    if (row.collection_id !== collectionId) {
      const right = await collectionById(trx, actor.warehouseId, row.collection_id)
      const zone = (await warehouseById(trx, actor.warehouseId)).zone
      return refused(
        reason("dock.wrong-door", {
          package: name,
          door: right?.door ?? "",
          carrier: right?.carrier ?? "",
          cutOff: right ? localTime(right.cutOff, zone) : "",
          here: collection.door,
        }),
      )
    }
    if (await trx("scan").where({ id: scanId }).first("id")) return accepted({ name, again: true })
    // it may have been closed, and the package moved to the next truck, since they were read
    const changed = await withLoad(trx, row.id)
      .whereIn("state", ["labelled", "left-behind"])
      .where({ collection_id: collectionId })
      .whereExists(trx("collection").where({ id: collectionId }).whereNull("closed_at"))
      .update({
        state: "on-truck",
        loaded_at: now,
        loaded_by: actor.name,
        seen_at: now,
        seen_where: `truck:${collection.door}`,
      })
    if (changed === 0) {
      // another scan was first, or the door was closed: what is there now decides
      const is = there(await trx("package").where({ id: row.id }).forUpdate().first("state", "collection_id"))
      if (is.state !== "on-truck" || is.collection_id !== collectionId)
        return refused(reason("dock.closed", { door: collection.door }))
    }
    await trx("scan").insert({
      id: scanId,
      at: now,
      user_id: actor.userId ?? 0,
      place: "dock",
      text: name,
      outcome: changed ? "on the truck" : "again",
    })
    if (changed)
      await record(trx, actor, now, {
        action: "dock.loaded",
        orderId: row.order_id,
        collectionId,
        detail: { package: name, door: collection.door },
      })
    return accepted({ name, again: changed === 0 })
  })
}

/** A package with all that stands on it. */
export const withLoad = (trx: Knex, id: number) =>
  trx("package").where((either) => either.where({ id }).orWhere({ parent_id: id }))

/**
 * Takes a package off the truck again, before the collection is closed and before it is on a form. Safe to repeat.
 */
export async function takeOff(
  context: Context,
  collectionId: CollectionId,
  packageId: PackageId,
): Promise<Outcome<null>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  return inTransaction(db, async (trx): Promise<Outcome<null>> => {
    const collection = await trx("collection")
      .where({ id: collectionId, warehouse_id: actor.warehouseId })
      .whereNull("closed_at")
      .forUpdate()
      .first("door")
    if (!collection) return accepted(null)
    const form = await trx("package as p")
      .join("closing_form as f", "f.id", "p.form_id")
      .where({ "p.id": packageId, "p.collection_id": collectionId })
      .first("f.number", "f.state")
    if (form) {
      const { name } = await named(trx, packageId)
      return refused(
        reason(form.state === "made" ? "form.on-it" : "form.on-sent", { package: name, form: form.number }),
      )
    }
    const changed = await withLoad(trx, packageId)
      .where({ collection_id: collectionId, state: "on-truck" })
      .whereNull("form_id")
      .update({
        state: "labelled",
        loaded_at: null,
        loaded_by: null,
        seen_at: now,
        seen_where: `door:${collection.door}`,
      })
    if (changed === 0) return accepted(null)
    const { orderId, name } = await named(trx, packageId)
    await record(trx, actor, now, {
      action: "dock.taken-off",
      orderId,
      collectionId,
      detail: { package: name, door: collection.door },
    })
    return accepted(null)
  })
}

/** What a package is called, and whose it is. */
async function named(trx: Knex, packageId: PackageId): Promise<{ orderId: OrderId; name: string }> {
  const row = await trx("package")
    .join("shipment", "shipment.id", "package.shipment_id")
    .join("sales_order", "sales_order.id", "shipment.order_id")
    .where("package.id", packageId)
    .first("order_id", "order_number", "package.number")
  return { orderId: row.order_id, name: `${row.order_number}-${row.number}` }
}

/** Marks packages that stay here when the truck leaves, or takes that back. */
export async function leaveBehind(
  context: Context,
  collectionId: CollectionId,
  packageIds: readonly PackageId[],
  left: boolean,
): Promise<void> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  await inTransaction(db, async (trx) => {
    const collection = await trx("collection")
      .where({ id: collectionId, warehouse_id: actor.warehouseId })
      .whereNull("closed_at")
      .forUpdate()
      .first("id", "door")
    if (!collection) return
    for (const id of packageIds) {
      const from = left ? ["labelled"] : ["left-behind"]
      const changed = await withLoad(trx, id)
        .where({ collection_id: collectionId })
        .whereIn("state", from)
        .update({ state: left ? "left-behind" : "labelled" })
      if (changed === 0) continue
      const { orderId, name } = await named(trx, id)
      await record(trx, actor, now, {
        action: left ? "dock.left-behind" : "dock.not-left-behind",
        orderId,
        collectionId,
        detail: { package: name, door: collection.door },
      })
    }
  })
}
