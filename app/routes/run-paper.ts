import { workContext } from "server/http/context.ts"
import { pickListModel } from "server/papers/pickList.ts"
import { slipsOf } from "server/papers/slip.ts"
import { pickListPdf } from "server/pdf/pickList.ts"
import { slipsPdf } from "server/pdf/slip.ts"
import { runWalk } from "server/picking/index.ts"
import { runs } from "server/picking/runs.ts"
import { say } from "../messages/index.ts"
import { runLabel } from "../screens/runLabel.ts"
import { pdf } from "../shell/pdf.server.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/run-paper"

/** The pick list of a run, or the packing slips of its orders before they are packed. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "bench.see")
  const { db, warehouse, now } = work
  const [run] = await runs(db, warehouse.id, { number: Number(params.number) || 0 })
  if (!run) throw new Response("", { status: 404 })
  if (params.paper === "slips") {
    const orders: number[] = await db("pick_run_order").where({ run_id: run.id }).orderBy("position").pluck("order_id")
    const models = (await Promise.all(orders.map((id) => slipsOf(db, id)))).flatMap((one) => one ?? [])
    if (models.length === 0) throw new Response("", { status: 404 })
    return pdf(await slipsPdf(models, `R${run.number}`, now), `packing-slips-R${run.number}`)
  }
  if (params.paper !== "list") throw new Response("", { status: 404 })
  const model = pickListModel(await runWalk(db, warehouse.id, run.id), {
    number: `R${run.number}`,
    title: say("pick.list"),
    facts: [
      runLabel(run.label),
      say("runs.plate.no-walk", { orders: run.orders }),
      ...(run.cart ? [`${say("runs.cart")} ${run.cart}`] : []),
    ],
  })
  return pdf(await pickListPdf(model, now), `pick-list-R${run.number}`)
}
