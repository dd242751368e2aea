import { exportBins } from "server/floorPlan/binsCsv.ts"
import { floorOf } from "server/floorPlan/index.ts"
import { workContext } from "server/http/context.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/floor-plan-file"

/** The floor's plan as JSON, or its bins as CSV; both can be imported again. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  const answer = (text: string, type: string) =>
    new Response(text, {
      headers: {
        "content-type": `${type}; charset=utf-8`,
        "content-disposition": `attachment; filename="${params.file}"`,
        "cache-control": "no-store",
      },
    })
  if (params.file === "bins.csv") return answer(await exportBins(work), "text/csv")
  if (params.file !== "plan.json") throw new Response("", { status: 404 })
  const { plan } = await floorOf(work.db, work.warehouse.id)
  return answer(`${JSON.stringify(plan, null, 1)}\n`, "application/json")
}
