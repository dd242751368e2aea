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
import { SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/reports"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { asked, one } = searchAsked(request)
  const search = { ...asked, state: one("state", reportStates, "") }
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
  return (
    <SearchedList
      name="reports"
      title="report.title"
      head={
        mayWork
          ? waiting.map((one) => (
              <Act key={one.sourceId} intent="all" sends={{ source: one.sourceId }}>
                <Button type="submit">{say("report.send-all", { n: one.n, source: one.source })}</Button>
              </Act>
            ))
          : null
      }
      answer={actionData?.answer}
      find="report.find"
      asked={search}
      fields={[
        searchChoice(
          { name: "state", label: "report.state", value: search.state },
          states,
          (state) => say(`report.state.${state}`),
          say("report.any-state"),
        ),
      ]}
      rows={reports}
      more={more}
      columns={columnsOf(zone, mayWork)}
      className="case-list"
      nothing="report.none-found"
      none="report.none"
    >
      {mayWork && reports.length > 0 ? (
        <Act intent="chosen" id="reports-form" className="case-acts">
          <Button type="submit">{say("report.send-chosen")}</Button>
        </Act>
      ) : null}
    </SearchedList>
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
