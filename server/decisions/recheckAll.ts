import { randomUUID } from "node:crypto"
import type { Knex } from "knex"
import type { Actor, Context } from "../actors/index.ts"
import { announce } from "../audit/index.ts"
import { rechecking } from "./jobs.ts"
import { recheckMany } from "./recheck.ts"

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
  const orders = await db("sales_order")
    .whereNull("left_line_at")
    .where("id", ">", after)
    .orderBy("id")
    .select("id", "warehouse_id")
  const wanted = orders.slice(0, most).map((order) => order.id)
  const done = await recheckMany(db, wanted, by, now, { until })
  for (const warehouseId of new Set(orders.map((order) => order.warehouse_id))) await announce(db, { warehouseId })
  return done.size < orders.length ? (wanted[done.size - 1] ?? after) : null
}
