import { accepted, type Outcome, reason, refused } from "core/refusal/index.ts"
import { authorise, type Context } from "../actors/index.ts"
import { there } from "../db/there.ts"
import { filterQuery, type OrderFilter } from "./filter.ts"

/** A filter kept under a name, by a person for themselves or for everybody of the warehouse. */
export interface View {
  readonly id: number
  readonly name: string
  readonly query: string
  readonly shared: boolean
  readonly own: boolean
  readonly by: string
}

/** Own and shared views of the actor's warehouse, by name. */
export async function views({ db, actor }: Context): Promise<View[]> {
  const rows = await db("order_view as v")
    .join("user as u", "u.id", "v.user_id")
    .where("v.warehouse_id", actor.warehouseId)
    .where((either) => either.where("v.user_id", actor.userId).orWhere("v.shared", true))
    .orderBy("v.name")
    .orderBy("v.id")
    .select("v.*", "u.name as by")
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    query: row.filter,
    shared: !!row.shared,
    own: row.user_id === actor.userId,
    by: row.by,
  }))
}

/** Keeps a filter under a name; the same name again is the same view with what is looked for now. */
export async function keepView(
  { db, actor }: Context,
  name: string,
  filter: OrderFilter,
  shared: boolean,
): Promise<Outcome<null>> {
  authorise(actor, "orders.see")
  if (shared) authorise(actor, "orders.work")
  const tidy = name.replace(/\s+/g, " ").trim().slice(0, 40)
  if (!tidy) return refused(reason("view.no-name"))
  const query = filterQuery(filter)
  if (!query) return refused(reason("view.no-filter"))
  await db("order_view")
    .insert({ warehouse_id: actor.warehouseId, user_id: there(actor.userId), name: tidy, filter: query, shared })
    .onConflict(["warehouse_id", "user_id", "name"])
    .merge({ filter: query, shared })
  return accepted(null)
}

/** Drops a view of one's own. Safe to repeat. */
export async function dropView({ db, actor }: Context, id: number): Promise<void> {
  authorise(actor, "orders.see")
  await db("order_view").where({ id, warehouse_id: actor.warehouseId }).where("user_id", actor.userId).delete()
}
