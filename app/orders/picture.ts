import { data } from "react-router"
import { workContext } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { pictureOf } from "server/tracking/read.ts"
import { picture } from "../shell/picture.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/picture"

/** The picture that a driver took where he left a package. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.see")
  const order = await summaryByNumber(work.db, work.warehouse, params.orderNumber)
  const found = order && (await pictureOf(work.db, work.warehouse.id, order.id, Number(params.event) || 0))
  if (!found) throw data(null, { status: 404 })
  return picture(found)
}
