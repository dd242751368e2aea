import { Button } from "@chakra-ui/react"
import { refused } from "core/refusal/index.ts"
import { Link, redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { makeRun, ordersFrom } from "server/shippingRuns/make.ts"
import { mostShown, runs } from "server/shippingRuns/read.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/shipping-runs"
import { madeOf } from "./RunHead.tsx"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const search = new URL(request.url).searchParams
  const putAway = search.has("away")
  const found = await runs(work, { putAway, before: Number(search.get("before")) || undefined })
  return {
    putAway,
    runs: found,
    next: found.length === mostShown ? (found.at(-1)?.id ?? null) : null,
    currency: work.warehouse.currency,
    mayWork: may(work.actor, "shipping.buy"),
    key: crypto.randomUUID(),
  }
}

export const action = ({ request, context }: Route.ActionArgs) =>
  answerTo(request, context.get(workContext), {
    start: act(z.object({ key: z.string().trim().min(1).max(36) }), async (work, { key }) => {
      const run = await makeRun(work, [], { rule: "settled", origin: "scan", empty: true }, key)
      if (!run.ok) return run
      throw redirect(`/orders/runs/${run.value.id}`)
    }),
    /** A run of what a pick run has picked, or of what a door's truck waits for. */
    from: act(
      z.object({ key: z.string().trim().min(1).max(36), pickRun: field.id, collection: field.id }),
      async (work, { key, pickRun, collection }) => {
        const found = await ordersFrom(work.db, work.warehouse.id, pickRun ? { pickRun } : { collection })
        if ("code" in found) return refused(found)
        const run = await makeRun(work, found.ids, { rule: "settled", origin: found.origin, pack: true }, key)
        if (!run.ok) return run
        throw redirect(`/orders/runs/${run.value.id}`)
      },
    ),
  })

export const meta: Route.MetaFunction = () => [{ title: `${say("shipping-run.list")} · ${say("app.name")}` }]

type Run = Awaited<ReturnType<typeof loader>>["runs"][number]

export default function ShippingRuns({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  const [latest] = loaderData.runs
  return (
    <Screen
      ribbon={{}}
      name="shipping-runs"
      sill={{
        plate: latest
          ? {
              verb: say("shipping-run.title", { id: latest.id }),
              detail: say("shipping-run.counts", latest),
              ready: true,
              to: `/orders/runs/${latest.id}`,
            }
          : { verb: say("place.orders"), detail: say("shipping-run.list-none"), ready: true, to: "/orders" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("shipping-run.list")}</h1>
        <Link to="/orders">{say("place.orders")}</Link>
        <Link to="/orders/runs" aria-current={loaderData.putAway ? undefined : "page"}>
          {say("shipping-run.at-work")}
        </Link>
        <Link to="/orders/runs?away" aria-current={loaderData.putAway ? "page" : undefined}>
          {say("shipping-run.history")}
        </Link>
        {loaderData.mayWork ? (
          <Act intent="start" sends={{ key: loaderData.key }}>
            <Button type="submit">{say("shipping-run.made-scan")}</Button>
          </Act>
        ) : null}
      </div>
      {loaderData.runs.length === 0 ? (
        <p className="nothing">{say(loaderData.putAway ? "shipping-run.history-none" : "shipping-run.list-none")}</p>
      ) : (
        <div className="scrolls runs-table">
          <Table
            caption={say("shipping-run.list")}
            rows={loaderData.runs}
            rowKey={(run) => run.id}
            columns={columns(zone, loaderData.currency)}
            sorts={loaderData.next === null}
          />
          {loaderData.next ? (
            <p className="pager">
              <Link to={`/orders/runs?${loaderData.putAway ? "away&" : ""}before=${loaderData.next}`}>
                {say("orders.next")}
              </Link>
            </p>
          ) : null}
        </div>
      )}
    </Screen>
  )
}

const columns = (zone: string, currency: string) => [
  {
    name: "run",
    heads: true,
    head: say("shipping-run.head.run"),
    by: (run: Run) => run.id,
    cell: (run: Run) => (
      <Link to={`/orders/runs/${run.id}`}>
        {run.id} {run.name}
      </Link>
    ),
  },
  { name: "origin", head: "", cell: (run: Run) => madeOf(run.origin) },
  {
    name: "made",
    head: say("shipping-run.head.made"),
    by: (run: Run) => run.madeAt.getTime(),
    cell: (run: Run) => say("shipping-run.made", { who: run.madeBy, when: dayAndClock(run.madeAt, zone) }),
  },
  {
    name: "state",
    head: say("shipping-run.head.state"),
    by: (run: Run) => run.bought / Math.max(1, run.orders),
    cell: (run: Run) => (
      <>
        {run.state === "open" ? "" : `${say(`shipping-run.state.${run.state}`)}: `}
        {say("shipping-run.counts", run)}
        {run.failed > 0 ? <span className="ember"> {say("shipping-run.failed-n", { n: run.failed })}</span> : null}
      </>
    ),
  },
  {
    name: "cost",
    className: "figure strong",
    head: say("shipping-run.head.spent"),
    by: (run: Run) => Number(run.cost),
    cell: (run: Run) => (run.bought > 0 ? `${run.cost} ${currency}` : ""),
  },
]
