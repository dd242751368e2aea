import { isPaperKind } from "core/papers/index.ts"
import { workContext } from "server/http/context.ts"
import { orderPaper } from "../parts/printed.server.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/shipment-paper"
import { draftOf } from "./paperDraft.server.ts"

/** Packing slips or logistic labels of a shipment, or a paper as it will be once the shipment is bought. */
export async function loader({ params, request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { paper, orderNumber } = params
  if (!isPaperKind(paper)) return pdf(orderPaper(work, paper, orderNumber))
  return pdf(draftOf(work, orderNumber, paper, new URL(request.url).searchParams.get("service")))
}
