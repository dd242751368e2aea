import { localDate } from "core/calendar/index.ts"
import { Outlet } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { warehousesOf } from "server/setup/warehouse.ts"
import { runsAtWork } from "server/shippingRuns/read.ts"
import type { Route } from "./+types/layout"
import { useActive } from "./useActive.ts"
import { dayOf, requireActor } from "./work.ts"

export const middleware: Route.MiddlewareFunction[] = [requireActor]

/** What stands on every screen: who works where, the day's counts, the ribbon, and what comes next. */
export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const day = await dayOf(work)
  return {
    actor: { name: work.actor.name, role: work.actor.role, seesFloor: may(work.actor, "packing.see") },
    warehouses: (await warehousesOf(work)).map((one) => ({
      id: one.id,
      name: one.name,
      here: one.id === work.warehouse.id,
    })),
    now: work.now,
    today: localDate(work.now, work.warehouse.zone),
    zone: work.warehouse.zone,
    hands: day.hands,
    runs: may(work.actor, "packing.see")
      ? (await runsAtWork(work)).map(({ id, state, bought, asked, failed, endedAt }) => ({
          id,
          state,
          done: bought,
          all: bought + asked,
          failed,
          ended: endedAt !== null && state === "open",
        }))
      : [],
    counts: day.counts,
    next: day.next ? { orderNumber: day.next.order.orderNumber, task: day.next.task } : null,
    shift: day.shift,
    ribbon: day.collections.map((one) => ({
      id: one.id,
      door: one.door,
      cutOff: one.cutOff,
      closed: one.closedAt !== null,
      margin: one.column?.margin ?? null,
      // plain numbers: three hundred orders stand on every page
      bars: (one.column?.bars ?? []).map((bar) => [bar.orderId, bar.from.getTime(), bar.to.getTime()] as const),
    })),
  }
}

/** Nothing is drawn before the foot of the screen is read, so that nothing moves on a slow machine. */
export const links: Route.LinksFunction = () => [
  { rel: "expect", href: "#enter-plate", blocking: "render" } as ReturnType<Route.LinksFunction>[number],
]

export type ShellData = Awaited<ReturnType<typeof loader>>

export default function Shell() {
  useActive()
  return <Outlet />
}
