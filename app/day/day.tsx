import type { LocalTime } from "core/calendar/index.ts"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { adviceFor } from "server/day/advice.ts"
import { takeAdvice } from "server/day/take.ts"
import { changeGroup, lastGroup, undoGroup } from "server/decisions/group.ts"
import { shipTosOfSeveral } from "server/decisions/join.ts"
import { setHands } from "server/decisions/shifts.ts"
import { usualTimes } from "server/dock/driver.ts"
import { workContext } from "server/http/context.ts"
import { openReturns } from "server/returns/list.ts"
import { openCases } from "server/tracking/cases.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { toldGroup } from "../parts/groupAnswer.ts"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { whereWorkStands } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useNow, useShell } from "../shell/useNow.ts"
import { dayOf } from "../shell/work.ts"
import type { Route } from "./+types/day"
import { type AdviceShown, adviceWords, DayAdvice } from "./DayAdvice.tsx"
import { DayBand } from "./DayBand.tsx"
import { dayScale } from "./dayScale.ts"
import { useDayKeys } from "./useDayKeys.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const day = await dayOf(work)
  const seesFloor = may(work.actor, "packing.see")
  const attention = [...(await openCases(work.db, work.warehouse.id)).values()].reduce((sum, n) => sum + n, 0)
  const returned = seesFloor ? (await openReturns(work.db, work.warehouse.id, work.now)).arrived : 0
  const [advice, last, joinable, usual] = seesFloor
    ? await Promise.all([
        adviceFor(work, work.warehouse, day),
        lastGroup(work),
        shipTosOfSeveral(work.db, work.warehouse.id),
        usualTimes(
          work.db,
          work.warehouse,
          day.collections.filter((one) => one.closedAt === null),
        ),
      ])
    : [null, null, [], new Map<number, LocalTime>()]
  const brief = (order: (typeof day.stopped)[number] | (typeof day.collections)[number]["orders"][number]) => ({
    id: order.id,
    orderNumber: order.orderNumber,
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
      /** When its truck usually comes; null where that is not known. */
      usual: usual.get(one.id) ?? null,
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
    next: day.next ? { ...brief(day.next.order), task: day.next.task } : null,
    any: day.counts.today > 0,
    joinable: joinable.length,
    attention,
    returned,
    advice: advice && adviceShown(advice, day),
    undo:
      last?.change.what === "moves" || last?.change.what === "hold"
        ? { id: last.id, n: last.changed, what: last.change.what }
        : null,
    hands: { now: day.hands, mayChange: may(work.actor, "hands.set"), setByHand: day.handsByHand },
    key: crypto.randomUUID(),
  }
}

/** Advice as it crosses to the browser: money as text, doors by name. */
function adviceShown(advice: NonNullable<Awaited<ReturnType<typeof adviceFor>>>, day: DayView): AdviceShown {
  return {
    collectionId: advice.collectionId,
    door: advice.door,
    missing: advice.missing,
    lost: advice.lost,
    moves: advice.moves.map((move) => ({
      orderNumber: move.orderNumber,
      door: move.door,
      cutOff: move.cutOff,
      sameDay: day.collections.some((one) => one.id === move.collectionId),
      inTime: move.inTime,
    })),
    dearer: advice.dearer.toFixed(2),
    hands: advice.hands ? { more: advice.hands.more, cost: advice.hands.cost?.toFixed(2) ?? null } : null,
    currency: advice.currency,
    take: advice.take,
    fingerprint: advice.fingerprint,
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const { warehouse } = work
  const key = field.text(36)
  return answerTo(request, work, {
    advice: act(
      z.object({ kind: z.enum(["hands", "move"]).catch("move"), fingerprint: field.text(80), key }),
      (_, { kind, fingerprint, key }) => takeAdvice(work, warehouse, fingerprint, kind, key),
      (taken) => (taken.kind === "hands" ? handsSet(taken.hands) : toldGroup("advice.moved", taken.result)),
    ),
    undo: act(
      z.object({ group: key }),
      (_, { group }) => undoGroup(work, group),
      (result) => toldGroup("group.undone", result),
    ),
    hands: act(
      // the button "as the shifts say" comes after the field with what is typed in it
      z.object({ hands: field.many(z.string().trim().max(8)).transform((all) => all.at(-1) ?? "") }),
      (_, { hands }) => setHands(work, warehouse, hands === "" ? null : Number(hands)),
      (_, { hands }) => (hands === "" ? say("day.hands-shifts") : handsSet(Number(hands))),
      { at: { "shifts.hands": "hands" } },
    ),
    hold: act(
      z.object({ order: field.id, orderNumber: field.text(8), key }),
      // one key stops it, so one button must take that back
      (_, { order, key }) => changeGroup(work, warehouse, key, [order], { what: "hold" }),
      (result, { orderNumber }) =>
        result.refused.length > 0 ? toldGroup("group.done", result) : say("day.held", { orderNumber }),
    ),
  })
}

const handsSet = (n: number): string => say("day.hands-set", { n })

export const meta: Route.MetaFunction = () => [{ title: `${say("day.title")} · ${say("app.name")}` }]

type DayView = Awaited<ReturnType<typeof dayOf>>

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
  const keys = useDayKeys(day, coming)
  const plate = actor.seesFloor
    ? platefor(day, zone)
    : { verb: say("orders.plate-find"), detail: say("orders.find-label"), ready: true, to: "/orders" }
  return (
    <Screen
      ribbon={null}
      name="day"
      sill={{
        plate,
        answer: actionData?.answer ?? null,
        keys: actor.seesFloor ? keys.keys : keys.looking,
        words: [
          [say("words.order"), say("words.order.does")],
          [say("words.door"), say("words.door.does")],
          [say("words.package"), say("words.package.does")],
          [say("words.day-keys"), say("words.day-keys.does")],
          [say("words.day-arrows"), say("words.day-arrows.does")],
        ],
      }}
    >
      <h1 className="sr-only">{say("day.title")}</h1>
      <DayBand
        day={day}
        coming={coming}
        scale={scale}
        now={now}
        zone={zone}
        next={day.next?.id ?? null}
        chosen={keys.chosen}
      />
      {day.advice || day.undo ? <DayAdvice advice={day.advice} undo={day.undo} sendKey={day.key} zone={zone} /> : null}
      <Act
        intent="hold"
        sends={{ order: keys.chosen ?? "", orderNumber: keys.orderNumber, key: day.key }}
        id="hold-form"
      ></Act>
      <div
        className="day-lists"
        style={{
          gridTemplateColumns:
            coming.length === 0
              ? "250fr 1030fr"
              : ["250fr", ...scale.columns.map((column) => `${column.width}fr`), "16fr"].join(" "),
        }}
      >
        <section aria-label={say("day.stopped", { n: day.stopped.length })} className="day-list stopped">
          <h2 className={day.stopped.length > 0 ? "ember" : undefined}>
            {say("day.stopped", { n: day.stopped.length })} <small>{say("day.solve-by")}</small>
          </h2>
          {day.stopped.length === 0 ? <p>{say("day.no-stops")}</p> : null}
          <ul>
            {day.stopped.map((order) => (
              <li key={order.id} className={keys.chosen === order.id ? "chosen" : undefined}>
                <Link to={`/orders/${order.orderNumber}`} data-order={order.id}>
                  <span className="stop-head">
                    <b className="ember">{order.orderNumber}</b> <span>{order.customer}</span>{" "}
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
            <h2>{say("day.to-go", { n: one.orders.length })}</h2>
            {one.orders.length === 0 ? <p>{say("day.none")}</p> : null}
            <ul>
              {one.orders.map((order) => (
                <li
                  key={order.id}
                  className={[day.next?.id === order.id ? "next" : "", keys.chosen === order.id ? "chosen" : ""].join(
                    " ",
                  )}
                >
                  <Link
                    to={order.to}
                    data-order={order.id}
                    className={one.column?.willMiss.includes(order.id) ? "row miss" : "row"}
                  >
                    <b>{order.orderNumber}</b>
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
        <Legend
          later={day.later}
          joinable={day.joinable}
          attention={day.attention}
          returned={day.returned}
          hands={day.hands}
          advice={day.advice}
        />
      </div>
    </Screen>
  )
}

const minutes = (value: number) => (value < 0.5 ? "–" : String(Math.round(value)))

function platefor(day: DayData, zone: string): Plate {
  if (day.next) {
    const door = day.collections.find((one) => one.orders.some((order) => order.id === day.next?.id))?.door ?? ""
    return {
      verb: say(day.next.task === "pick" ? "day.plate.pick" : "day.plate.pack", { orderNumber: day.next.orderNumber }),
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

const spines = [
  ["legend.to-pick", "none", "none"],
  ["legend.picking", "hatch", "none"],
  ["legend.picked", "solid", "none"],
  ["legend.packing", "solid", "hatch"],
] as const

function Legend({
  later,
  joinable,
  attention,
  returned,
  hands,
  advice,
}: {
  later: number
  joinable: number
  attention: number
  returned: number
  hands: DayData["hands"]
  advice: DayData["advice"]
}) {
  return (
    <aside className="legend">
      {spines.map(([key, picked, packed]) => (
        <span key={key}>
          <svg viewBox="0 0 18 44" width="12" height="26" aria-hidden="true">
            <Spine picked={picked} packed={packed} />
          </svg>{" "}
          {say(key)}
        </span>
      ))}
      <span>
        <svg viewBox="0 0 14 12" width="14" height="12" aria-hidden="true">
          <path d="M7 1 L13 11 L1 11 Z" className="triangle" />
        </svg>{" "}
        {say("legend.solve")}
      </span>
      <span>
        <b className="figure">4 + 12</b> {say("legend.minutes")}
      </span>
      {later > 0 ? <span>{say("day.later", { n: later })}</span> : null}
      {joinable > 0 ? <Link to="/orders/joining">{say("combine.offers", { n: joinable })}</Link> : null}
      {attention > 0 ? (
        <Link to="/orders/attention" className="ember">
          {say("tracking.on-day", { n: attention })}
        </Link>
      ) : null}
      {returned > 0 ? <Link to="/orders/returns">{say("goods-back.on-day", { n: returned })}</Link> : null}
      <Link to="/orders/cheaper">{say("cheaper.short")}</Link>
      {hands.mayChange ? (
        <ActForm intent="hands" className="hands-now">
          <label htmlFor="hands-now">{say("day.hands")}</label>
          <input
            id="hands-now"
            key={hands.now}
            name="hands"
            type="number"
            min={1}
            max={99}
            defaultValue={hands.now || ""}
          />
          <button type="submit">{say("day.hands-do")}</button>
          {hands.setByHand ? (
            <button type="submit" name="hands" value="" formNoValidate>
              {say("day.hands-as-shifts")}
            </button>
          ) : null}
          {advice?.hands ? <em className="ember">{adviceWords.hands(advice)}</em> : null}
        </ActForm>
      ) : null}
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
