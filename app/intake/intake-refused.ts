import { workContext } from "server/http/context.ts"
import { refusedCsv } from "server/intake/correct.ts"
import { sayReasons } from "words/reasons.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/intake-refused"

/** The refused rows of an intake as a file, for correcting them in a spreadsheet. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const id = Number(params.id) || 0
  return new Response(await refusedCsv(work, id, sayReasons), {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": `attachment; filename="refused-rows-${id}.csv"`,
      "cache-control": "no-store",
    },
  })
}
