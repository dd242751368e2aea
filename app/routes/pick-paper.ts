import { workContext } from "server/http/context.ts"
import { summaryByBench } from "server/orders/facts.ts"
import { pickListModel } from "server/papers/pickList.ts"
import { pickListPdf } from "server/pdf/pickList.ts"
import { orderWalk } from "server/picking/index.ts"
import { say } from "../messages/index.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/pick-paper"

/** The pick list of one order. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "bench.see")
  const order = await summaryByBench(work.db, work.warehouse, params.bench)
  if (!order) throw new Response("", { status: 404 })
  const model = pickListModel(await orderWalk(work.db, work.warehouse.id, order.id), {
    number: order.bench,
    title: say("pick.list"),
    facts: [order.customer, order.place],
  })
  return pdf(await pickListPdf(model, work.now), `pick-list-${order.bench}`)
}
