import { workContext } from "server/http/context.ts"
import { orderPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/shipment-paper"

/** Packing slips or logistic labels of a shipment. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return pdf(orderPaper(work, params.paper, params.orderNumber))
}
