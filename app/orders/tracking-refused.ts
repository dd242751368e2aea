import { data } from "react-router"
import { csvText } from "server/formats/csvOut.ts"
import { workContext } from "server/http/context.ts"
import { trackingColumns, trackingFile } from "server/outside/trackingFile.ts"
import { sayReasons } from "words/reasons.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tracking-refused"

/** The refused rows of a file of tracking numbers, to be corrected and imported again. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const found = await trackingFile(work.db, work.warehouse.id, Number(params.id) || 0, true)
  if (!found) throw data(null, { status: 404 })
  const text = csvText(
    [...trackingColumns, "line", "why"],
    found.refused.map(({ line, orderNumber, text, why }) => ({
      order_number: orderNumber,
      carrier: text.carrier,
      tracking: text.tracking,
      shipped_on: text.shippedOn,
      cost: text.cost,
      currency: text.currency,
      service: text.service,
      line,
      why: sayReasons(why),
    })),
  )
  return new Response(text, {
    headers: { "content-type": "text/csv; charset=utf-8", "content-disposition": 'attachment; filename="refused.csv"' },
  })
}
