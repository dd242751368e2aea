import { workContext } from "server/http/context.ts"
import { masterBillPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/master-bill"

/** The master bill of lading over the freight of one truck. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return pdf(masterBillPaper(work, Number(params.collection) || 0))
}
