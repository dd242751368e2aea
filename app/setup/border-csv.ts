import { data } from "react-router"
import { workContext } from "server/http/context.ts"
import { tableCsv, tableKinds } from "server/papers/setUp.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/border-csv"

/** A dated table as a file, as it is imported. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  const kind = tableKinds.find((one) => one === params.table)
  if (!kind) throw data(null, { status: 404 })
  return new Response(await tableCsv(work.db, kind), {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": `attachment; filename="${kind}.csv"`,
      "cache-control": "no-store",
    },
  })
}
