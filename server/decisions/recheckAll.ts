import { randomUUID } from "node:crypto"
import type { Knex } from "knex"
import type { Actor, Context } from "../actors/index.ts"
import { announce } from "../audit/index.ts"
import { inTransaction } from "../db/connection.ts"
import { groundOf } from "../plan/plan.ts"
import { rechecking } from "./jobs.ts"
import { recheck } from "./recheck.ts"

/** Orders up to which all are checked again at once; of more the rest is left to the worker. */
const atOnce = 60

/** Looks again at every open order of every warehouse, such as after the rules changed. */
export async function recheckLine({ db, actor, now }: Context): Promise<void> {
  const by = { userId: actor.userId, name: actor.name }
  const last = await recheckFrom(db, 0, by, now, atOnce, Number.POSITIVE_INFINITY)
  if (last !== null) await rechecking.queue(db, `orders.recheck:${randomUUID()}`, { after: last, by })
}

/** A part of that by the worker, well within a lease; the rest is another job. */
export async function recheckPart(
  db: Knex,
  payload: { readonly after: number; readonly by: Pick<Actor, "userId" | "name"> },
  now: Date,
): Promise<void> {
  const last = await recheckFrom(db, payload.after, payload.by, now, Number.POSITIVE_INFINITY, Date.now() + 15_000)
  if (last !== null) await rechecking.queue(db, `orders.recheck:${randomUUID()}`, { after: last, by: payload.by })
}

/** The last order that was looked at where there are more; null at the end. */
async function recheckFrom(
  db: Knex,
  after: number,
  by: Pick<Actor, "userId" | "name">,
  now: Date,
  most: number,
  until: number,
): Promise<number | null> {
  const orders: { id: number; warehouse_id: number }[] = await db("sales_order")
    .whereNull("left_line_at")
    .where("id", ">", after)
    .orderBy("id")
    .select("id", "warehouse_id")
  const grounds = new Map<number, Awaited<ReturnType<typeof groundOf>>>()
  for (const [index, { id, warehouse_id: warehouseId }] of orders.entries()) {
    if (index >= most || Date.now() >= until) return orders[index - 1]?.id ?? null
    const ground = grounds.get(warehouseId) ?? (await groundOf(db, warehouseId, now))
    grounds.set(warehouseId, ground)
    await inTransaction(db, (trx) => recheck(trx, id, by, now, { ground }))
  }
  for (const warehouseId of grounds.keys()) await announce(db, { warehouseId })
  return null
}
