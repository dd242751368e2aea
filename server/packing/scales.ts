import type { OrderId, WarehouseId } from "core/ids/index.ts"
import { type Outcome, reason, refused } from "core/refusal/index.ts"
import type { Knex } from "knex"
import { authorise, type Context } from "../actors/index.ts"
import { weighOnce } from "../gateways/scale.ts"
import type { Shipment } from "../packages/shipment.ts"
import { weigh } from "./index.ts"

export interface Scale {
  readonly id: number
  readonly name: string
}

/** The scales of a warehouse's benches. */
export const scalesOf = (db: Knex, warehouseId: WarehouseId): Promise<Scale[]> =>
  db("scale").where({ warehouse_id: warehouseId, active: true }).orderBy("name").select("id", "name")

/** Takes the weight of a package from a scale; the first of the warehouse where none is named. */
export async function weighByScale(
  context: Context,
  orderId: OrderId,
  number: number,
  scaleId: number | null,
): Promise<Outcome<Shipment>> {
  const { db, actor } = context
  authorise(actor, "orders.work")
  const scale = await db("scale")
    .where({ warehouse_id: actor.warehouseId, active: true, ...(scaleId ? { id: scaleId } : {}) })
    .orderBy("name")
    .first("host", "port")
  if (!scale) return refused(reason("scale.none"))
  const read = await weighOnce(scale.host, scale.port)
  return read.ok ? weigh(context, orderId, number, read.value.weight) : read
}
