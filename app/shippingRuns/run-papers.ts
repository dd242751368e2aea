import { workContext } from "server/http/context.ts"
import { shippingRunPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/run-papers"

/** The labels of a shipping run as one PDF in the order of their printing, its packing slips, or its pick lists. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return pdf(shippingRunPaper(work, params.paper, Number(params.run) || 0))
}
