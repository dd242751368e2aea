import { Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { say, sayReasons } from "../messages/index.ts"
import { DayBand } from "../screens/DayBand.tsx"
import { dayScale } from "../screens/dayScale.ts"
import { clock } from "../shell/format.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { followScan, whereWorkStands } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useNow, useShell } from "../shell/useNow.ts"
import { dayOf } from "../shell/work.ts"
import type { Route } from "./+types/day"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const day = await dayOf(work)
  const brief = (order: (typeof day.stopped)[number] | (typeof day.collections)[number]["orders"][number]) => ({
    id: order.id,
    bench: order.bench,
    customer: order.customer,
    stage: order.stage,
    pick: order.left.pick,
    pack: order.left.pack,
    picked: order.facts.ordered ? order.facts.picked / order.facts.ordered : 0,
    packed: order.facts.ordered ? order.facts.packed / order.facts.ordered : 0,
    bins: order.bins,
    lines: order.lines,
    to: whereWorkStands(order),
  })
  return {
    collections: day.collections.map(({ orders, column, ...one }) => ({
      id: one.id,
      carrier: one.carrier,
      door: one.door,
      cutOff: one.cutOff,
      closedAt: one.closedAt,
      labelledPackages: one.labelledPackages,
      packages: one.packages,
      column,
      orders: orders.map(brief),
    })),
    stopped: day.stopped.map((order) => ({
      ...brief(order),
      reasons: order.stops,
      solveBy: order.solveBy,
      door: day.collections.find((one) => one.id === order.collectionId)?.door ?? null,
    })),
    later: day.later,
    breaks: day.breaks,
    next: day.next ? { ...brief(day.next.order), work: day.next.work } : null,
    any: day.counts.today > 0,
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const form = await request.formData()
  return followScan(context.get(workContext), String(form.get("text") ?? "").slice(0, 120))
}

export const meta: Route.MetaFunction = () => [{ title: `${say("day.title")} · ${say("app.name")}` }]

export type DayData = Awaited<ReturnType<typeof loader>>

export default function Day({ loaderData: day, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone, actor } = useShell()
  const now = useNow()
  useLive(null)
  const coming = day.collections.filter((one) => one.column !== null)
  const scale = dayScale(
    now.getTime(),
    coming.map((one) => one.cutOff.getTime()),
    250,
    1280 - 16,
    222,
  )
  const plate = actor.bench
    ? platefor(day, zone)
    : { verb: say("orders.plate-find"), detail: say("orders.find-label"), ready: true, to: "/orders" }
  return (
    <Screen
      ribbon={null}
      name="day"
      sill={{
        plate,
        said: actionData?.said ?? null,
        words: [
          [say("words.order"), say("words.order.does")],
          [say("words.door"), say("words.door.does")],
          [say("words.package"), say("words.package.does")],
        ],
      }}
    >
      <h1 className="sr-only">{say("day.title")}</h1>
      <DayBand day={day} coming={coming} scale={scale} now={now} zone={zone} next={day.next?.id ?? null} />
      <div
        className="day-lists"
        style={{
          gridTemplateColumns: ["250fr", ...scale.columns.map((column) => `${column.width}fr`), "16fr"].join(" "),
        }}
      >
        <section aria-label={say("day.stopped", { n: day.stopped.length })} className="day-list stopped">
          <h2 className={day.stopped.length > 0 ? "ember" : undefined}>
            {say("day.stopped", { n: day.stopped.length })} <small>{say("day.solve-by")}</small>
          </h2>
          {day.stopped.length === 0 ? <p>{say("day.no-stops")}</p> : null}
          <ul>
            {day.stopped.map((order) => (
              <li key={order.id}>
                <Link to={`/orders/${order.bench}`}>
                  <span className="stop-head">
                    <b className="ember">{order.bench}</b> <span>{order.customer}</span>{" "}
                    <b>{order.solveBy ? clock(order.solveBy, zone) : ""}</b>
                  </span>
                  <span className="stop-why">
                    <span>{sayReasons(order.reasons)}</span>
                    {order.door ? <i className="plate-small">{order.door}</i> : null}
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
        {coming.map((one) => (
          <section key={one.id} className="day-list" aria-label={`${one.carrier} ${clock(one.cutOff, zone)}`}>
            <h2>
              {say("day.to-go", { n: one.orders.length })} <small>{say("day.pick-pack")}</small>
            </h2>
            {one.orders.length === 0 ? <p>{say("day.none")}</p> : null}
            <ul>
              {one.orders.map((order) => (
                <li key={order.id} className={day.next?.id === order.id ? "next" : undefined}>
                  <Link to={order.to} className={one.column?.willMiss.includes(order.id) ? "row miss" : "row"}>
                    <b>{order.bench}</b>
                    <span>{order.customer}</span>
                    <em>
                      {minutes(order.pick)} <i>+</i> {minutes(order.pack)}
                    </em>
                  </Link>
                </li>
              ))}
            </ul>
          </section>
        ))}
        <Legend later={day.later} />
      </div>
    </Screen>
  )
}

const minutes = (value: number) => (value < 0.5 ? "–" : String(Math.round(value)))

function platefor(day: DayData, zone: string): Plate {
  if (day.next) {
    const door = day.collections.find((one) => one.orders.some((order) => order.id === day.next?.id))?.door ?? ""
    return {
      verb: say(day.next.work === "pick" ? "day.plate.pick" : "day.plate.pack", { bench: day.next.bench }),
      detail: say("day.plate.detail", {
        customer: day.next.customer,
        bins: day.next.bins,
        lines: day.next.lines,
        minutes: Math.round(day.next.pick + day.next.pack),
        door,
      }),
      ready: true,
      to: day.next.to,
    }
  }
  const waiting = day.collections.find((one) => one.closedAt === null && one.labelledPackages > 0)
  if (waiting) {
    return {
      verb: say("day.plate.dock", { door: waiting.door }),
      detail: say("day.plate.dock-detail", {
        n: waiting.labelledPackages,
        carrier: waiting.carrier,
        time: clock(waiting.cutOff, zone),
      }),
      ready: true,
      to: `/dock/${waiting.id}`,
    }
  }
  if (!day.any)
    return { verb: say("day.plate.intake"), detail: say("day.plate.intake-detail"), ready: true, to: "/orders/intake" }
  return { verb: say("day.plate.none"), detail: say("day.plate.none-detail"), ready: false }
}

function Legend({ later }: { later: number }) {
  return (
    <aside className="legend">
      <span>
        <svg viewBox="0 0 18 44" width="12" height="26" aria-hidden="true">
          <Spine picked="none" packed="none" />
        </svg>{" "}
        {say("legend.to-pick")}
      </span>
      <span>
        <svg viewBox="0 0 18 44" width="12" height="26" aria-hidden="true">
          <Spine picked="hatch" packed="none" />
        </svg>{" "}
        {say("legend.picking")}
      </span>
      <span>
        <svg viewBox="0 0 18 44" width="12" height="26" aria-hidden="true">
          <Spine picked="solid" packed="none" />
        </svg>{" "}
        {say("legend.picked")}
      </span>
      <span>
        <svg viewBox="0 0 18 44" width="12" height="26" aria-hidden="true">
          <Spine picked="solid" packed="hatch" />
        </svg>{" "}
        {say("legend.packing")}
      </span>
      <span>
        <svg viewBox="0 0 14 12" width="14" height="12" aria-hidden="true">
          <path d="M7 1 L13 11 L1 11 Z" className="triangle" />
        </svg>{" "}
        {say("legend.solve")}
      </span>
      {later > 0 ? <span>{say("day.later", { n: later })}</span> : null}
    </aside>
  )
}

function Spine({ picked, packed }: { picked: "none" | "hatch" | "solid"; packed: "none" | "hatch" | "solid" }) {
  return (
    <>
      <rect x="1" y="1" width="16" height="42" className="spine" />
      <rect x="1" y="29" width="16" height="14" className={`cell ${picked}`} />
      <rect x="1" y="15" width="16" height="14" className={`cell ${packed}`} />
    </>
  )
}
