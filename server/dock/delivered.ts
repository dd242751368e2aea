import type { CollectionId } from "core/ids/index.ts"
import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { isSigned, strokesFrom } from "core/signature/index.ts"
import { z } from "zod"
import { authorise, type Context } from "../actors/index.ts"
import { record } from "../audit/index.ts"
import { membersOf } from "../orders/joined.ts"
import { followAll } from "../tracking/follow.ts"
import { tellRound } from "../tracking/own.ts"
import { withTruck } from "./close.ts"

export const deliveryForm = z.object({
  outcome: z.enum(["delivered", "not-delivered"]),
  name: z.string().trim().max(60).default(""),
  reason: z.string().trim().max(120).default(""),
  /** Points of the signature; empty: none was written on the screen. */
  signature: z.string().max(120_000, "signature.too-long").default(""),
})
export type DeliveryForm = z.infer<typeof deliveryForm>

/**
 * Notes what became of orders of a round: delivered, with who took them and his signature where there is one, or not, and
 * why. What was noted before is replaced, as by whoever typed it wrong. Refused while the truck is here, and for one that
 * was not delivered without a reason. Safe to repeat.
 */
export async function noteDelivery(
  context: Context,
  collectionId: CollectionId,
  orderIds: readonly number[],
  said: DeliveryForm,
): Promise<Outcome<{ readonly orders: number }>> {
  const { db, actor, now } = context
  authorise(actor, "dock.work")
  const strokes = strokesFrom(said.signature)
  if (strokes === null) return refused(reason("driver.bad-signature", { field: "signature" }))
  if (strokes.length > 0 && !isSigned(strokes)) return refused(reason("driver.touch", { field: "signature" }))
  if (orderIds.length === 0) return refused(reason("round.choose"))
  if (said.outcome === "not-delivered" && said.reason === "")
    return refused(reason("round.no-reason", { field: "reason" }))
  const told: number[] = []
  const noted = await withTruck(
    db,
    actor.warehouseId,
    collectionId,
    async (trx, collection): Promise<Outcome<{ orders: number }>> => {
      if (!collection) return refused(reason("dock.no-such-collection"))
      if (!collection.closedAt) return refused(reason("round.still-here", { door: collection.door }))
      const delivered = said.outcome === "delivered"
      const stops = await trx("round_stop as s")
        .join("sales_order as o", "o.id", "s.order_id")
        .where({ "s.warehouse_id": actor.warehouseId, "s.collection_id": collectionId })
        .whereIn("s.order_id", [...orderIds])
        .orderBy("s.id")
        .forUpdate()
        .select("s.*", "o.promised_on")
      if (stops.length === 0) return refused(reason("round.not-on-it"))
      for (const stop of stops) {
        const same =
          stop.state === said.outcome && stop.name === said.name && stop.reason === said.reason && strokes.length === 0
        if (same) continue
        await trx("round_stop")
          .where({ id: stop.id })
          .update({
            state: said.outcome,
            name: delivered ? said.name : "",
            reason: delivered ? "" : said.reason,
            strokes: delivered && strokes.length > 0 ? JSON.stringify(strokes) : null,
            told_at: now,
            told_by: actor.name,
          })
        for (const orderId of await membersOf(trx, stop.order_id))
          await record(trx, actor, now, {
            action: delivered ? "round.delivered" : "round.not-delivered",
            orderId,
            detail: { name: said.name, why: said.reason },
          })
        told.push(
          ...(await tellRound(
            trx,
            stop.order_id,
            collectionId,
            {
              kind: delivered ? "delivered" : "attempted",
              at: now,
              name: delivered ? said.name : "",
              text: delivered ? "" : said.reason,
              strokes: delivered && strokes.length > 0 ? strokes : null,
            },
            now,
          )),
        )
      }
      return accepted({ orders: stops.length })
    },
  )
  if (noted.ok) await followAll(db, told, now)
  return noted
}
