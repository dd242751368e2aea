import { workContext } from "server/http/context.ts"
import { runPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/run-paper"

/** The pick list of a run, or the packing slips of its orders before they are packed. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return pdf(runPaper(work, params.paper, Number(params.number) || 0))
}
