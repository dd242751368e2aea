import { Button, Input, NativeSelect } from "@chakra-ui/react"
import { Form, Link, useSearchParams } from "react-router"
import { countTasks } from "server/decisions/count.ts"
import { workContext } from "server/http/context.ts"
import { makeRuns, proposeRuns, type RunWish } from "server/picking/buildRuns.ts"
import { type Grouping, groupings, groupsOf, runCandidates } from "server/picking/candidates.ts"
import { carts, runs } from "server/picking/runs.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { runLabel } from "../parts/runLabel.ts"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/runs"
import { cartWords } from "./cartWords.ts"

function wishOf(fields: { get(name: string): unknown; getAll(name: string): unknown[] }): RunWish {
  const by = String(fields.get("by") ?? "") as Grouping
  return {
    by: groupings.includes(by) ? by : "all",
    value: String(fields.get("value") ?? "").slice(0, 80),
    orderIds: fields.getAll("order").map(Number).filter(Boolean).slice(0, 500),
    cartId: Number(fields.get("cart")) || null,
    atMost: Number(fields.get("most")) || 12,
  }
}

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const search = new URL(request.url).searchParams
  const wish = wishOf(search)
  const candidates = await runCandidates(work.db, work.warehouse.id)
  return {
    runs: await runs(work.db, work.warehouse.id),
    waiting: candidates.map((one) => ({
      id: one.id,
      orderNumber: one.orderNumber,
      customer: one.customer,
      door: one.collection?.door ?? null,
      leavesAt: one.collection?.cutOff ?? null,
      bins: new Set(one.stops.map((stop) => stop.bin)).size,
      pieces: one.stops.reduce((sum, stop) => sum + stop.quantity, 0),
    })),
    groups: groupsOf(candidates, wish.by),
    wish,
    proposed: search.has("by") ? await proposeRuns(work, wish) : null,
    carts: await carts(work.db, work.warehouse.id),
    counts: (await countTasks(work.db, work.warehouse.id)).length,
    key: crypto.randomUUID(),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    make: act(
      z.looseObject({ key: field.text(36) }),
      (work, { key }, { form }) => makeRuns(work, wishOf(form), key),
      (runs) => say("runs.made", { runs: runs.join(", ") }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("place.pick")} · ${say("app.name")}` }]

export default function Runs({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const { zone, actor } = useShell()
  const { runs: open, proposed } = loaderData
  return (
    <Screen
      ribbon={{}}
      name="runs"
      sill={{
        plate: plateOf(loaderData, actor.name),
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <section className="runs-open scrolls">
        <header className="pick-head">
          <h1>{say("runs.title")}</h1>
          {loaderData.counts > 0 ? <Link to="/pick/counts">{say("runs.counts", { n: loaderData.counts })}</Link> : null}
        </header>
        <OpenRuns runs={open} zone={zone} />
      </section>
      <section className="runs-new scrolls">
        <h2>{say("runs.new")}</h2>
        <WishForm loaded={loaderData} />
        {proposed ? <Proposal loaded={loaderData} proposed={proposed} /> : null}
        <Waiting loaded={loaderData} zone={zone} />
      </section>
    </Screen>
  )
}

type Loaded = Route.ComponentProps["loaderData"]

/** Runs that are to be walked or being walked, with how far each is. */
function OpenRuns({ runs: open, zone }: { runs: Loaded["runs"]; zone: string }) {
  return open.length === 0 ? (
    <p className="nothing">{say("runs.none")}</p>
  ) : (
    <ul className="run-cards">
      {open.map((run) => (
        <li key={run.id}>
          <Link to={`/pick/runs/${run.number}`} className="run-number">
            {run.number}
          </Link>
          <div>
            <p>
              <b>{runLabel(run.label)}</b> {say("runs.plate.no-walk", { orders: run.orders })}
              {run.leavesAt ? `, ${say("runs.head.leaves")} ${clock(run.leavesAt, zone)}` : ""}
            </p>
            <svg
              className="run-stops"
              viewBox={`0 0 ${Math.max(1, run.stops)} 1`}
              preserveAspectRatio="none"
              aria-hidden="true"
            >
              <rect width={Math.max(1, run.stops)} height="1" className="todo" />
              <rect width={run.stopsDone} height="1" className="did" />
            </svg>
            <p className="pale">
              {say("runs.pieces", { picked: run.picked, pieces: run.pieces })} {say("runs.head.pieces")}
              {run.metres === null ? "" : `, ${say("runs.metres", { metres: Math.round(run.metres) })}`}
              {run.metres !== null && run.apartMetres !== null && run.apartMetres - run.metres >= 1
                ? `, ${say("runs.saved", { saved: Math.round(run.apartMetres - run.metres) })}`
                : ""}
            </p>
          </div>
          <p className="run-who">
            {run.people.length > 0 ? run.people.join(", ") : say(`runs.state.${run.state}`)}
            {run.cart ? <small>{run.cart}</small> : null}
          </p>
        </li>
      ))}
    </ul>
  )
}

/** Which orders are picked together, with which cart. */
function WishForm({ loaded: { wish, groups, carts } }: { loaded: Loaded }) {
  const valued = ["collection", "carrier", "zone", "customer", "item"].includes(wish.by)
  return (
    <Form method="get" id="runs-wish" className="run-wish">
      <div className="field">
        <label htmlFor="by">{say("runs.by")}</label>
        <NativeSelect.Root>
          <NativeSelect.Field
            id="by"
            name="by"
            defaultValue={wish.by}
            key={`by ${wish.by}`}
            onChange={(event) => event.currentTarget.form?.requestSubmit()}
          >
            {groupings.map((by) => (
              <option key={by} value={by}>
                {say(`runs.by.${by}`)}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </div>
      {valued ? (
        <div className="field">
          <label htmlFor="value">{say("runs.which")}</label>
          <NativeSelect.Root>
            <NativeSelect.Field
              id="value"
              name="value"
              defaultValue={wish.value}
              key={`${wish.by} ${wish.value}`}
              onChange={(event) => event.currentTarget.form?.requestSubmit()}
            >
              <option value="–">–</option>
              {groups.map((group) => (
                <option key={group.value} value={group.value}>
                  {say("runs.choice", {
                    label: runLabel(`${wish.by}:${group.label}`),
                    n: group.orders,
                  })}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </div>
      ) : null}
      <div className="field">
        <label htmlFor="cart">{say("runs.cart")}</label>
        <NativeSelect.Root>
          <NativeSelect.Field id="cart" name="cart" defaultValue={wish.cartId ? String(wish.cartId) : ""}>
            <option value="">{say("runs.no-cart")}</option>
            {carts.map((one) => (
              <option key={one.id} value={one.id}>
                {/* it may be back by the time of the run */}
                {cartWords({ ...one, busyWith: null })}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </div>
      <div className="field narrow">
        <label htmlFor="most">{say("runs.at-most")}</label>
        <Input id="most" name="most" type="number" min={1} max={60} defaultValue={wish.atMost} />
      </div>
      <Button type="submit">{say("runs.look")}</Button>
    </Form>
  )
}

/** What runs would be made, and how far each is to walk. */
function Proposal({ loaded: { key, wish }, proposed }: { loaded: Loaded; proposed: NonNullable<Loaded["proposed"]> }) {
  return (
    <Act
      intent="make"
      sends={{ key: key, by: wish.by, value: wish.value, cart: wish.cartId ?? "", most: wish.atMost }}
      id="make-runs"
      className="proposed"
    >
      {wish.orderIds.map((id) => (
        <input key={id} type="hidden" name="order" value={id} />
      ))}
      <p>
        <b>{toldProposal(proposed)}</b>
      </p>
      <ol>
        {proposed.runs.map((run) => (
          <li key={run.orders[0]?.id}>
            <span>
              {proposed.measured ? say("runs.metres", { metres: Math.round(run.metres) }) : ""}
              {proposed.measured && run.apartMetres - run.metres >= 1
                ? `, ${say("runs.saved", { saved: Math.round(run.apartMetres - run.metres) })}`
                : ""}
            </span>{" "}
            {run.orders.map((one) => one.orderNumber).join(" ")}
          </li>
        ))}
      </ol>
      {proposed.left.map((one) => (
        <p key={one.orderNumber} className="pale">
          {say("runs.left-out", { orderNumber: one.orderNumber, why: sayReason(one.why) })}
        </p>
      ))}
    </Act>
  )
}

/** Orders that wait to be picked, each to be picked alone or chosen for a run. */
function Waiting({ loaded: { waiting, wish }, zone }: { loaded: Loaded; zone: string }) {
  const [search] = useSearchParams()
  return (
    <>
      <h2>{waiting.length === 0 ? say("runs.waiting-none") : say("runs.waiting", { n: waiting.length })}</h2>
      <ul className="run-waiting">
        {waiting.slice(0, 300).map((one) => (
          <li key={one.id}>
            {wish.by === "hand" ? (
              <input
                type="checkbox"
                form="runs-wish"
                name="order"
                value={one.id}
                defaultChecked={search.getAll("order").includes(String(one.id))}
                aria-label={say("runs.choose", { orderNumber: one.orderNumber })}
              />
            ) : null}
            <Link to={`/pick/${one.orderNumber}`} aria-label={say("runs.pick-alone", { orderNumber: one.orderNumber })}>
              {one.orderNumber}
            </Link>
            <span className="run-customer">{one.customer}</span>
            <span className="pale">
              {one.door ? <i className="plate-small in-text">{one.door}</i> : null}{" "}
              {one.leavesAt ? clock(one.leavesAt, zone) : ""}
            </span>
            <b>{one.pieces}</b>
          </li>
        ))}
      </ul>
    </>
  )
}

function toldProposal(proposed: NonNullable<Loaded["proposed"]>): string {
  const n = proposed.runs.length
  if (n === 0) return say("runs.proposed-none")
  if (!proposed.measured) return say("runs.proposed-unmeasured", { n })
  const sum = (of: (run: (typeof proposed.runs)[number]) => number) =>
    Math.round(proposed.runs.reduce((total, run) => total + of(run), 0))
  const values = { n, metres: sum((run) => run.metres), apart: sum((run) => run.apartMetres) }
  return say("runs.proposed", values)
}

function plateOf({ proposed, runs: open }: Loaded, me: string): Plate {
  if (proposed && proposed.runs.length > 0) {
    const n = proposed.runs.length
    const orders = proposed.runs.reduce((sum, run) => sum + run.orders.length, 0)
    const saved = Math.round(proposed.runs.reduce((sum, run) => sum + run.apartMetres - run.metres, 0))
    return {
      verb: say("runs.plate.make", { n }),
      detail: say("runs.plate.make-detail", { orders, saved }),
      ready: true,
      form: "make-runs",
    }
  }
  const next = open.find((run) => run.people.includes(me)) ?? open.find((run) => run.state !== "picking") ?? open[0]
  if (!next) return { verb: say("plate.nothing"), detail: say("runs.none"), ready: false }
  return {
    verb: say(next.state === "ready" ? "runs.plate.begin" : "runs.plate.go-on", { run: next.number }),
    detail:
      next.metres === null
        ? say("runs.plate.no-walk", { orders: next.orders })
        : say("runs.plate.walk", { orders: next.orders, metres: Math.round(next.metres) }),
    ready: true,
    to: `/pick/runs/${next.number}`,
  }
}
