import { Button } from "@chakra-ui/react"
import { data, Link } from "react-router"
import { may } from "server/actors/index.ts"
import { deliveryForm, noteDelivery } from "server/dock/delivered.ts"
import { milesOf, planRoundOf, roundOf, roundStops, unplanned } from "server/dock/round.ts"
import { workContext } from "server/http/context.ts"
import { clock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { printed, roundSheetPaper } from "../parts/printed.server.ts"
import { SignatureField, SignaturePicture } from "../parts/SignatureField.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/round"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const id = Number(params.collection) || 0
  const round = await roundOf(work.db, work.warehouse.id, id)
  if (!round) throw data(null, { status: 404 })
  return {
    ...round,
    miles: milesOf(round.km),
    stops: await roundStops(work.db, work.warehouse.id, id),
    unplanned: round.closed ? 0 : await unplanned(work.db, id),
    mayWork: may(work.actor, "dock.work"),
    key: crypto.randomUUID(),
  }
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const id = Number(params.collection) || 0
  return answerTo(request, work, {
    plan: act(
      z.object({}),
      (work) => planRoundOf(work, id),
      ({ stops, km }) => say("round.is-planned", { n: stops, miles: milesOf(km) }),
    ),
    sheet: act(
      z.object({}),
      (work, _, { key }) => printed(work, roundSheetPaper(work, id), key),
      (name) => say("packing.printed", { name }),
    ),
    note: act(
      deliveryForm.extend({ order: field.many(field.id) }),
      (work, { order, ...said }) => noteDelivery(work, id, order, said),
      ({ orders }) => say("round.is-noted", { n: orders }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("round.title")} · ${say("app.name")}` }]

type Data = Route.ComponentProps["loaderData"]
type Stop = Data["stops"][number]

export default function RoundPage({ loaderData: round, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const open = round.stops.filter((stop) => stop.orders.some((one) => one.state === "planned"))
  const planned = open.flatMap((stop) => stop.orders.filter((one) => one.state === "planned").map((one) => one.id))
  return (
    <Screen
      ribbon={{}}
      name="round"
      sill={{
        plate: { verb: say("form.to-dock"), detail: "", ready: true, to: `/dock/${round.id}` },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("round.one", { day: shortDay(round.onDate) })}</h1>
        <p>
          {round.stops.length > 0 ? say("round.way", { n: round.stops.length, miles: round.miles }) : say("round.none")}
        </p>
        {round.unplanned > 0 ? <p className="ember">{say("round.unplanned", { n: round.unplanned })}</p> : null}
      </div>
      <div className="round-acts">
        {round.mayWork && !round.closed ? (
          <Act intent="plan">
            <Button type="submit">{say(round.stops.length > 0 ? "round.plan-again" : "round.plan")}</Button>
          </Act>
        ) : null}
        {round.stops.length > 0 ? (
          <>
            <a href={`/dock/rounds/${round.id}/sheet.pdf`}>{say("round.sheet")}</a>
            <Act intent="sheet" sends={{ key: round.key }}>
              <Button type="submit" variant="ghost">
                {say("round.print-sheet")}
              </Button>
            </Act>
          </>
        ) : null}
        {round.mayWork && round.closed && open.length > 1 ? (
          <>
            <Act intent="note" id="chosen-form" sends={{ outcome: "delivered" }}>
              <Button type="submit">{say("round.chosen")}</Button>
            </Act>
            <Act intent="note" sends={{ outcome: "delivered", order: planned }}>
              <Button type="submit" variant="ghost">
                {say("round.all", { n: open.length })}
              </Button>
            </Act>
          </>
        ) : null}
      </div>
      <ol className="round-stops">
        {round.stops.map((stop) => (
          <StopRow key={stop.position} stop={stop} closed={round.closed} mayWork={round.mayWork} />
        ))}
      </ol>
    </Screen>
  )
}

/** One stop: where, what, and what became of it. */
function StopRow({ stop, closed, mayWork }: { stop: Stop; closed: boolean; mayWork: boolean }) {
  const { zone } = useShell()
  const done = stop.orders.every((one) => one.state === "delivered")
  const first = stop.orders[0]
  return (
    <li className={done ? "done" : undefined}>
      <b className="stop-number">{stop.position}</b>
      <div>
        <p>
          <b>{stop.receiver}</b> {stop.attention}
          <br />
          {stop.street}, {stop.place}
          {stop.phone ? (
            <>
              {" "}
              <a href={`tel:${stop.phone}`}>{stop.phone}</a>
            </>
          ) : null}
          {stop.instructions ? (
            <>
              <br />
              {stop.instructions}
            </>
          ) : null}
        </p>
        <ul className="stop-orders">
          {stop.orders.map((order) => (
            <li key={order.id}>
              {mayWork && closed && order.state === "planned" ? (
                <input
                  type="checkbox"
                  name="order"
                  value={order.id}
                  form="chosen-form"
                  aria-label={say("round.choose-one", { order: order.orderNumber })}
                />
              ) : null}
              <Link to={`/orders/${order.orderNumber}`}>{order.orderNumber}</Link>{" "}
              <span>
                {order.packages.join(", ")}, {order.lb} lb
              </span>{" "}
              {order.state === "planned" || !order.at ? null : order.state === "delivered" ? (
                <b>
                  {say("round.delivered-at", {
                    time: clock(order.at, zone),
                    name: order.name === "" ? "none" : order.name,
                  })}
                </b>
              ) : (
                <b className="ember">
                  {say("round.not-delivered-at", { time: clock(order.at, zone), why: order.reason })}
                </b>
              )}
            </li>
          ))}
        </ul>
        {done && first && first.strokes.length > 0 ? <SignaturePicture strokes={first.strokes} /> : null}
      </div>
      {mayWork && closed ? (
        <Note stop={stop} done={done} key={stop.orders.map((one) => `${one.state} ${one.at?.getTime()}`).join()} />
      ) : null}
    </li>
  )
}

/** What became of a stop, typed, or confirmed at the door of the receiver. */
function Note({ stop, done }: { stop: Stop; done: boolean }) {
  const orders = stop.orders.map((one) => one.id)
  const at = stop.position
  return (
    <details className="stop-note">
      <summary>{say(done ? "round.correct" : "round.mark")}</summary>
      <ActForm intent="note" sends={{ outcome: "delivered", order: orders }} id={`deliver-${at}`}>
        <TextField name="name" id={`name-${at}`} label="round.received-by" value={stop.orders[0]?.name} most={60} />
        <details>
          <summary>{say("round.sign")}</summary>
          <SignatureField name="signature" before={[]} />
        </details>
        <Button type="submit">{say("round.deliver")}</Button>
      </ActForm>
      <ActForm intent="note" sends={{ outcome: "not-delivered", order: orders }} id={`leave-${at}`}>
        <TextField name="reason" id={`reason-${at}`} label="round.why" value={stop.orders[0]?.reason} most={120} />
        <Button type="submit" variant="ghost">
          {say("round.leave")}
        </Button>
      </ActForm>
    </details>
  )
}
