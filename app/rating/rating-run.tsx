import { Button, NativeSelect } from "@chakra-ui/react"
import { data, Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { applyRun, changeRow, runById } from "server/ratingRuns/runs.ts"
import { servicesByName } from "server/setup/services.ts"
import { clockTime, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/rating-run"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const run = await runById(work.db, work.warehouse.id, Number(params.run))
  if (!run) throw data(null, { status: 404 })
  const names = new Map((await servicesByName(work.db)).map((one) => [one.code, one.name]))
  return {
    ...run,
    currency: work.warehouse.currency,
    // what was refused stands at the end
    rows: [...run.rows]
      .sort((a, b) => Number(a.state === "refused") - Number(b.state === "refused"))
      .map((row) => ({
        ...row,
        reasons: row.reasons.slice(0, 4),
        offers: [...row.offers]
          .sort((a, b) => Number(a.late) - Number(b.late) || Number(a.contract) - Number(b.contract))
          .map((one) => ({
            code: one.code,
            name: names.get(one.code) ?? one.code,
            contract: one.contract,
            arrives: one.arrives,
            late: one.late,
            payer: one.payer,
          })),
      })),
  }
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const id = Number(params.run)
  return answerTo(request, context.get(workContext), {
    change: act(
      z.object({ order: field.id, service: field.text(), version: field.version }),
      (work, { order, service, version }) => changeRow(work, id, order, service, version),
    ),
    apply: act(
      nothing,
      (work) => applyRun(work, id),
      ({ changed }) => say("run.applied", { n: changed }),
    ),
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${say("run.title")} ${params.run} · ${say("app.name")}` },
]

export default function RatingRunScreen({ loaderData: run, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const { totals } = run
  const progress = { done: totals.orders - totals.waiting, all: totals.orders }
  return (
    <Screen
      ribbon={{}}
      name="rating-run"
      sill={{
        plate:
          run.state === "done"
            ? {
                verb: say("run.apply", { n: totals.rated }),
                detail: say("run.apply-detail"),
                ready: totals.rated > 0,
                send: { intent: "apply" },
              }
            : { verb: say("run.wait", progress), detail: say("run.wait-detail"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>
          {say("run.title")} {run.id}
        </h1>
        <p>{say(`run.rule.${run.rule}`)}</p>
        <Link to="/orders/rating">{say("run.list")}</Link>
      </div>
      <div className="run-totals">
        <progress value={progress.done} max={progress.all} aria-label={say("run.progress", progress)} />
        <p>
          {say("run.progress", progress)}. {say("run.totals", { ...totals, cost: `${totals.cost} ${run.currency}` })}
        </p>
      </div>
      <div className="quote-list">
        <Table
          className="rows run-rows"
          caption={say("run.title")}
          columns={columns()}
          rows={run.rows}
          rowKey={(row) => row.orderId}
          rowClass={(row) => (row.state === "waiting" ? "pale" : undefined)}
        />
      </div>
    </Screen>
  )
}

type Row = Awaited<ReturnType<typeof loader>>["rows"][number]

const chosenOf = (row: Row) => row.offers.find((one) => one.code === row.chosen)

/** What has no service yet stands after all that has one. */
const last = "~"
const columns = (): readonly TableColumn<Row>[] => [
  {
    name: "order",
    heads: true,
    head: say("run.order"),
    by: (row) => row.orderNumber,
    cell: (row) => <Link to={`/orders/${row.orderNumber}`}>{row.orderNumber}</Link>,
  },
  { name: "customer", head: say("quote.customer"), cell: (row) => row.customer },
  {
    name: "promised",
    className: "sign",
    head: say("run.promised"),
    by: (row) => row.promisedOn ?? last,
    cell: (row) => (row.promisedOn ? shortDay(row.promisedOn) : ""),
  },
  {
    name: "service",
    head: say("run.service"),
    by: (row) => chosenOf(row)?.name ?? last,
    cell: (row) => <ServiceOf row={row} />,
  },
  {
    name: "arrives",
    className: (row) => (chosenOf(row)?.late ? "sign ember" : "sign"),
    head: say("run.arrives"),
    by: (row) => chosenOf(row)?.arrives ?? last,
    cell: (row) => {
      const { arrives } = chosenOf(row) ?? {}
      return arrives ? `${shortDay(arrives.slice(0, 10))}, ${clockTime(arrives.slice(11))}` : ""
    },
  },
  {
    name: "cost",
    className: "figure strong",
    head: say("run.cost"),
    by: (row) => Number(chosenOf(row)?.contract ?? Number.POSITIVE_INFINITY),
    cell: (row) => chosenOf(row)?.contract ?? "",
  },
]

function ServiceOf({ row }: { row: Row }) {
  if (row.state !== "rated")
    return <span className={row.state === "refused" ? "ember" : undefined}>{sayReasons(row.reasons)}</span>
  return (
    <ActForm intent="change" sends={{ order: row.orderId, version: row.version }} className="run-change">
      <NativeSelect.Root width="330px" key={row.chosen}>
        <NativeSelect.Field
          name="service"
          defaultValue={row.chosen ?? ""}
          aria-label={`${say("run.service")} ${row.orderNumber}`}
        >
          {row.offers.map((one) => (
            <option key={one.code} value={one.code}>
              {one.name}, {one.contract}, {one.arrives ? shortDay(one.arrives.slice(0, 10)) : ""}
              {one.late ? `, ${say("rate.late")}` : ""}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Button type="submit">{say("run.change")}</Button>
      {row.chosen === row.proposed ? null : <small>{say("run.by-hand")}</small>}
    </ActForm>
  )
}
