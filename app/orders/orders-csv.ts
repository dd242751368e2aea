import { workContext } from "server/http/context.ts"
import { exportOrders } from "server/orders/export.ts"
import { readFilter } from "server/orders/filter.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/orders-csv"

/** The orders that the list's filter finds, as a file that is written while it is read. */
export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.see")
  const parts = exportOrders(work, work.warehouse, readFilter(new URL(request.url).searchParams), {
    stage: (stage) => wordFor("stage", stage),
    reasons: sayReasons,
  })
  const encoder = new TextEncoder()
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { done, value } = await parts.next()
      if (done) controller.close()
      else controller.enqueue(encoder.encode(value))
    },
    cancel: () => void parts.return(undefined),
  })
  return new Response(body, {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": 'attachment; filename="orders.csv"',
      "cache-control": "no-store",
    },
  })
}
