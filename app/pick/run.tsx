import { Button, NativeSelect } from "@chakra-ui/react"
import { data, Link, redirect } from "react-router"
import { peopleOnFloor } from "server/accounts/users.ts"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { packRun } from "server/packing/packRun.ts"
import { assigned } from "server/picking/assign.ts"
import { runWalk } from "server/picking/index.ts"
import { carts, ordersOfRun, runs } from "server/picking/runs.ts"
import { breakUpRun, enterRun, handRun, leaveRun } from "server/picking/walkRuns.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { PaperLinks } from "../parts/PaperLinks.tsx"
import { printed, runPaper } from "../parts/printed.server.ts"
import { runLabel } from "../parts/runLabel.ts"
import { act, answerTo, field, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/run"
import { cartWords } from "./cartWords.ts"
import { pickSill, StopNow, StopsLeft, stopPlate, Undo } from "./PickFloor.tsx"
import type { PickAnswer } from "./pickActions.server.ts"
import { pickActs, pickScan } from "./pickActions.server.ts"
import { emptyHand, handAt, type PickHand } from "./pickMeaning.ts"
import { pickView } from "./pickView.server.ts"

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { db, warehouse, actor } = work
  const [run] = await runs(db, warehouse.id, { number: Number(params.number) || 0 })
  if (!run) throw data(null, { status: 404 })
  const inIt = run.people.includes(actor.name)
  const whole = await runWalk(db, warehouse.id, run.id)
  const walked =
    inIt && run.state === "picking" && actor.userId !== null ? await assigned(db, whole, actor.userId) : whole
  const people = (await peopleOnFloor(db, warehouse.id)).filter((one) => one.id !== run.holderId)
  const orders = await ordersOfRun(db, run.id)
  return {
    run,
    orders: orders.map(({ orderNumber, customer }) => ({ orderNumber, customer })),
    view: await pickView(work, { runId: run.id }, walked, new URL(request.url).searchParams),
    carts: run.state === "ready" ? await carts(db, warehouse.id) : [],
    people,
    inIt,
    mayShip: may(actor, "shipping.buy"),
  }
}

export async function action({ request, params, context }: Route.ActionArgs): Promise<PickAnswer> {
  const work = context.get(workContext)
  const number = Number(params.number) || 0
  const [run] = await withRights(() => runs(work.db, work.warehouse.id, { number }))
  if (!run) throw data(null, { status: 404 })
  const away = () => {
    throw redirect("/pick")
  }
  return answerTo(
    request,
    work,
    {
      enter: act(
        z.object({ cart: field.id }),
        (_, { cart }) => enterRun(work, number, cart || null),
        ({ others, takenUp }) => {
          const how = others.length > 0 ? "joined" : takenUp ? "goes-on" : "begun"
          return say(`runs.${how}`, { run: number, names: others.join(", ") })
        },
      ),
      leave: act(nothing, () => leaveRun(work, number), away),
      hand: act(
        z.object({ to: field.id }),
        (_, { to }) => handRun(work, number, to),
        () => say("runs.handed", { run: number }),
      ),
      print: act(
        z.object({ paper: field.text() }),
        (_, { paper }, { key }) => printed(work, runPaper(work, paper, number), key),
        (name) => say("packing.printed", { name }),
      ),
      pack: act(
        nothing,
        () => packRun(work, number),
        ({ taken, left }) => {
          const words = say("runs.packed", { n: taken.length })
          if (left.length === 0) return words
          const why = left.slice(0, 4).map((one) => `${one.orderNumber}: ${sayReasons(one.why)}`)
          return refusal(`${words} ${why.join("; ")}`)
        },
      ),
      "break-up": act(nothing, () => breakUpRun(work, number), away),
      ...pickActs({ runId: run.id }, async () => (await runWalk(work.db, work.warehouse.id, run.id)).stops),
    },
    {
      scanned: async (text, form) =>
        pickScan(work, text, form, (await runWalk(work.db, work.warehouse.id, run.id)).stops),
    },
  )
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("runs.name", { run: params.number ?? "" })} · ${say("app.name")}` },
]

export default function Run({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const { zone } = useShell()
  const { run, view } = loaderData
  const walking = run.state === "picking"
  const stop = walking ? view.stop : null
  const hand = handAt(stop, actionData?.hand ?? emptyHand)
  return (
    <Screen ribbon={{}} name="pick" sill={pickSill(stop, hand, plateOf(loaderData, hand), actionData?.answer)}>
      <section className="pick-now">
        <h1>
          <small>
            {say("runs.name", { run: run.number })} {runLabel(run.label)}
          </small>
        </h1>
        <p className="run-facts">
          {say("runs.plate.no-walk", { orders: run.orders })}
          {run.leavesAt ? `, ${say("runs.head.leaves")} ${clock(run.leavesAt, zone)}` : ""}
          {run.cart ? `, ${run.cart}` : ""}
          {run.people.length > 0 ? `, ${run.people.join(", ")}` : ""}
        </p>
        {stop ? (
          <StopNow view={view} stop={stop} hand={hand} several={run.orders > 1} />
        ) : walking || run.state === "done" ? (
          <>
            <p className="pick-description">{say("pick.run-all-done")}</p>
            <div className="pick-acts">
              <Undo view={view} />
            </div>
          </>
        ) : run.state === "ready" ? (
          <ActForm intent="enter" id="enter-run" className="run-enter">
            <label htmlFor="cart">{say("runs.cart")}</label>
            <NativeSelect.Root width="260px">
              <NativeSelect.Field
                id="cart"
                name="cart"
                defaultValue={
                  loaderData.carts.some((one) => one.id === run.cartId && one.busyWith === null)
                    ? String(run.cartId)
                    : ""
                }
              >
                <option value="">{say("runs.no-cart")}</option>
                {loaderData.carts.map((one) => (
                  <option key={one.id} value={one.id} disabled={one.busyWith !== null}>
                    {cartWords(one)}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </ActForm>
        ) : (
          <p className="pick-description">{say(`runs.state.${run.state}`)}</p>
        )}
      </section>
      <StopsLeft view={view} stop={stop} several={run.orders > 1} />
      <section className="pick-more">
        <ul className="run-orders">
          {loaderData.orders.map((one) => (
            <li key={one.orderNumber}>
              <Link to={`/shipment/${one.orderNumber}`}>{one.orderNumber}</Link> {one.customer}
            </li>
          ))}
        </ul>
        {run.picked > 0 ? (
          <Act intent="pack" className="pick-acts">
            <Button type="submit">{say("runs.pack")}</Button>
          </Act>
        ) : null}
        {run.picked > 0 && loaderData.mayShip ? (
          <Act intent="from" action="/orders/runs" sends={{ pickRun: run.number, key: view.key }} className="pick-acts">
            <Button type="submit">{say("runs.ship")}</Button>
          </Act>
        ) : null}
        <PaperLinks at={`/pick/runs/${run.number}`} papers={["list", "slips"]} sendKey={view.key} />
        {run.state !== "done" && run.state !== "dropped" ? (
          <div className="pick-acts">
            {loaderData.inIt ? (
              <Act intent="leave">
                <Button type="submit">{say("runs.leave")}</Button>
              </Act>
            ) : walking ? (
              <Act intent="enter">
                <Button type="submit">{say("runs.join")}</Button>
              </Act>
            ) : null}
            {run.state !== "ready" && loaderData.people.length > 0 ? (
              <ActForm intent="hand" className="hand-over">
                <label htmlFor="to">{say("runs.hand-to")}</label>
                <NativeSelect.Root width="150px">
                  <NativeSelect.Field id="to" name="to">
                    {loaderData.people.map((one) => (
                      <option key={one.id} value={one.id}>
                        {one.name}
                      </option>
                    ))}
                  </NativeSelect.Field>
                  <NativeSelect.Indicator />
                </NativeSelect.Root>
                <Button type="submit">{say("runs.hand")}</Button>
              </ActForm>
            ) : null}
            <Act intent="break-up">
              <Button type="submit" variant="ghost">
                {say("runs.break-up")}
              </Button>
            </Act>
          </div>
        ) : null}
      </section>
    </Screen>
  )
}

function plateOf({ run, view, orders }: Route.ComponentProps["loaderData"], hand: PickHand): Plate {
  if (run.state === "ready" || run.state === "left")
    return {
      verb: say(run.state === "ready" ? "runs.plate.begin" : "runs.plate.go-on", { run: run.number }),
      detail:
        run.metres === null
          ? say("runs.plate.no-walk", { orders: run.orders })
          : say("runs.plate.walk", { orders: run.orders, metres: Math.round(run.metres) }),
      ready: true,
      ...(run.state === "ready" ? { form: "enter-run" } : { send: { intent: "enter" } }),
    }
  if (run.state === "picking" && view.stop) return stopPlate(view.stop, hand)
  const [first] = orders
  if (run.state === "dropped" || !first)
    return { verb: say("plate.nothing"), detail: say("runs.state.dropped"), ready: true, to: "/pick" }
  return {
    verb: say("pick.plate.done", { orderNumber: first.orderNumber }),
    detail: say("pick.plate.done-detail", { n: run.picked }),
    ready: true,
    to: `/shipment/${first.orderNumber}`,
  }
}
