import { workContext } from "server/http/context.ts"
import { roundSheetPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/round-sheet"

/** The sheet to sign of our own vehicle's round. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  return pdf(roundSheetPaper(work, Number(params.collection) || 0))
}
