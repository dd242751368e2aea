import { exportAddresses } from "server/addresses/importCsv.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/addresses-csv"

/** The directory of addresses as a file. */
export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  return new Response(await exportAddresses(work), {
    headers: {
      "content-type": "text/csv; charset=utf-8",
      "content-disposition": 'attachment; filename="addresses.csv"',
      "cache-control": "no-store",
    },
  })
}
