import { Button } from "@chakra-ui/react"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { reportStates, reportsAtOnce, searchReports, sendReports, waitingReports } from "server/reports/list.ts"
import { dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayTrouble, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { FindForm, Pages, pageAsked } from "../parts/Searched.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/reports"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const query = new URL(request.url).searchParams
  const search = {
    text: (query.get("find") ?? "").slice(0, 60),
    state: reportStates.find((one) => one === query.get("state")) ?? ("" as const),
    page: pageAsked(query),
  }
  const found = await searchReports(work.db, work.warehouse.id, search)
  return {
    search,
    states: [...reportStates],
    reports: found.slice(0, reportsAtOnce),
    more: found.length > reportsAtOnce,
    waiting: await waitingReports(work.db, work.warehouse.id),
    mayWork: may(work.actor, "orders.work"),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const told = ({ reports }: { readonly reports: number }) => say("report.are-sent", { n: reports })
  return answerTo(request, context.get(workContext), {
    chosen: act(
      z.object({ report: field.many(field.id, 200) }),
      (work, { report }) => sendReports(work, { ids: report }),
      told,
    ),
    all: act(z.object({ source: field.id }), (work, { source }) => sendReports(work, { sourceId: source }), told),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("report.title")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["reports"][number]

export default function Reports({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  const { search, reports, more, waiting, mayWork, states } = loaderData
  const plain = search.text === "" && search.state === ""
  return (
    <Screen
      ribbon={{}}
      name="reports"
      sill={{
        plate: { verb: say("order.plate.day"), detail: "", ready: true, to: "/" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("report.title")}</h1>
        {mayWork
          ? waiting.map((one) => (
              <Act key={one.sourceId} intent="all" sends={{ source: one.sourceId }}>
                <Button type="submit">{say("report.send-all", { n: one.n, source: one.source })}</Button>
              </Act>
            ))
          : null}
      </div>
      <FindForm
        label="report.find"
        value={search.text}
        choices={[
          {
            name: "state",
            label: "report.state",
            value: search.state,
            options: [
              { value: "", text: say("report.any-state") },
              ...states.map((state) => ({ value: state, text: say(`report.state.${state}`) })),
            ],
          },
        ]}
      />
      {reports.length === 0 ? (
        <p className="nothing">{say(plain ? "report.none" : "report.none-found")}</p>
      ) : (
        <div className="case-list">
          <Table
            caption={say("report.title")}
            rows={reports}
            rowKey={(report) => report.id}
            sorts={false}
            columns={columnsOf(zone, mayWork)}
          />
        </div>
      )}
      {mayWork && reports.length > 0 ? (
        <Act intent="chosen" id="reports-form" className="case-acts">
          <Button type="submit">{say("report.send-chosen")}</Button>
        </Act>
      ) : null}
      <Pages page={search.page} more={more} search={{ find: search.text, state: search.state }} />
    </Screen>
  )
}

const columnsOf = (zone: string, mayWork: boolean): readonly TableColumn<Row>[] => [
  {
    name: "tick",
    head: "",
    className: "tick",
    cell: (report) =>
      mayWork ? (
        <input
          type="checkbox"
          name="report"
          value={report.id}
          form="reports-form"
          aria-label={say("report.select", { order: report.orderNumber })}
        />
      ) : null,
  },
  {
    name: "order",
    head: say("report.order"),
    heads: true,
    cell: (report) => (
      <>
        <Link to={`/orders/${report.orderNumber}`}>{report.orderNumber}</Link>
        <br />
        <span className="code">{report.sourceNumber}</span>
      </>
    ),
  },
  { name: "what", head: say("report.what"), cell: (report) => wordFor("report.topic", report.topic) },
  { name: "source", head: say("report.source"), cell: (report) => report.source },
  {
    name: "tracking",
    head: say("report.tracking"),
    className: "code",
    cell: (report) => (
      <>
        {report.tracking.slice(0, 2).join(", ")}
        {report.tracking.length > 2 ? " …" : ""}
      </>
    ),
  },
  { name: "made", head: say("report.made"), cell: (report) => dayAndClock(report.madeAt, zone) },
  {
    name: "state",
    head: say("report.state"),
    cell: (report) => (
      <span className={report.state === "refused" ? "ember" : undefined}>
        {say(`report.state.${report.state}`)}
        {report.trouble && report.state !== "sent" ? `: ${sayTrouble(report.trouble)}` : ""}
      </span>
    ),
  },
]
