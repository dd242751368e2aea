import { data } from "react-router"
import { workContext } from "server/http/context.ts"
import { summaryByNumber } from "server/orders/facts.ts"
import { marksOf } from "server/orders/marks.ts"
import { orderWalk, pickStops } from "server/picking/index.ts"
import { say } from "words/index.ts"
import { MarksShown } from "../parts/Marks.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { People } from "../shell/People.tsx"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/pick"
import { pickSill, StopNow, StopsLeft, stopPlate, Undo } from "./PickFloor.tsx"
import type { PickAnswer } from "./pickActions.server.ts"
import { pickActs, pickScan } from "./pickActions.server.ts"
import { emptyHand, handAt, type PickHand } from "./pickMeaning.ts"
import { pickView } from "./pickView.server.ts"

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const order = await summaryByNumber(work.db, work.warehouse, params.orderNumber)
  if (!order) throw data(null, { status: 404 })
  const walked = await orderWalk(work.db, work.warehouse.id, order.id)
  return {
    id: order.id,
    orderNumber: order.orderNumber,
    customer: order.customer,
    lead: order.lead?.orderNumber ?? null,
    view: await pickView(work, { orderId: order.id }, walked, new URL(request.url).searchParams),
    stopped: order.stops.length > 0,
    marks: await marksOf(work.db, order.id),
  }
}

export async function action({ request, params, context }: Route.ActionArgs): Promise<PickAnswer> {
  const work = context.get(workContext)
  const order = await withRights(() => summaryByNumber(work.db, work.warehouse, params.orderNumber))
  if (!order) throw data(null, { status: 404 })
  const stops = () => pickStops(work.db, order.id)
  return answerTo(request, work, pickActs({ orderId: order.id }, stops), {
    scanned: async (text, form) => pickScan(work, text, form, await stops()),
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("pick.title", { orderNumber: params.orderNumber ?? "" })} · ${say("app.name")}` },
]

export default function Pick({ loaderData: order, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const people = useLive(order.id)
  const { view } = order
  const { stop } = view
  const hand = handAt(stop, actionData?.hand ?? emptyHand)
  return (
    <Screen
      ribbon={{ order: order.id }}
      name="pick"
      sill={pickSill(stop, hand, plateOf(order, hand), actionData?.answer)}
    >
      <section className="pick-now">
        <h1>
          <small>
            {order.orderNumber} {order.customer}
          </small>
        </h1>
        <People names={people} />
        <MarksShown marks={order.marks} notes="" />
        {stop ? (
          <StopNow view={view} stop={stop} hand={hand} several={false} />
        ) : (
          <>
            <p className="pick-description">{view.stops.length === 0 ? say("pick.nothing") : say("pick.all-done")}</p>
            <div className="pick-acts">
              <Undo view={view} />
            </div>
          </>
        )}
        <p className="pick-papers">
          <a href={`/pick/${order.orderNumber}/list.pdf`}>{say("paper.of-floor.list")}</a>
        </p>
      </section>
      <StopsLeft view={view} stop={stop} several={false} />
    </Screen>
  )
}

function plateOf(order: Route.ComponentProps["loaderData"], hand: PickHand): Plate {
  const { stop, stops } = order.view
  if (order.stopped)
    return {
      verb: say("ship.plate.stopped"),
      detail: say("pick.order-stopped"),
      ready: true,
      to: `/orders/${order.orderNumber}`,
    }
  if (stop) return stopPlate(stop, hand)
  if (stops.length === 0) return { verb: say("plate.nothing"), detail: say("pick.nothing"), ready: false }
  return {
    verb: say("pick.plate.done", { orderNumber: order.orderNumber }),
    detail: say("pick.plate.done-detail", { n: stops.reduce((sum, one) => sum + one.quantity, 0) }),
    ready: true,
    to: `/shipment/${order.lead ?? order.orderNumber}`,
  }
}
