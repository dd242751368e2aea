import { workContext } from "server/http/context.ts"
import { orderPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/pick-paper"

/** The pick list of one order. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return pdf(orderPaper(work, "list", params.orderNumber))
}
