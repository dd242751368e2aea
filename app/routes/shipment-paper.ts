import { workContext } from "server/http/context.ts"
import { summaryByBench } from "server/orders/facts.ts"
import { logisticLabels } from "server/papers/logistic.ts"
import { slipsOf } from "server/papers/slip.ts"
import { logisticLabelsPdf } from "server/pdf/logisticLabel.ts"
import { slipsPdf } from "server/pdf/slip.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/shipment-paper"

/** Packing slips or logistic labels of a shipment. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "bench.see")
  const order = await summaryByBench(work.db, work.warehouse, params.bench)
  if (!order) throw new Response("", { status: 404 })
  if (params.paper === "slips") {
    const slips = await slipsOf(work.db, order.id)
    if (slips) return pdf(await slipsPdf(slips, order.bench, work.now), `packing-slip-${order.bench}`)
  }
  if (params.paper === "logistic") {
    const labels = await logisticLabels(work.db, order.id)
    if (labels && labels.length > 0)
      return pdf(await logisticLabelsPdf(labels, work.now), `logistic-labels-${order.bench}`)
  }
  throw new Response("", { status: 404 })
}
