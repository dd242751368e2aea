import { claimLists } from "core/claims/index.ts"
import { showMoney } from "core/money/index.ts"
import { Link } from "react-router"
import { claimsAtOnce, openClaims, searchClaims } from "server/claims/list.ts"
import { workContext } from "server/http/context.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { ListCounts, SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/claims"
import { claimName, nextWords } from "./claimWords.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { asked, one } = searchAsked(request)
  const search = { ...asked, list: one("list", claimLists, "draft") }
  const found = await searchClaims(work.db, work.warehouse.id, search, work.now)
  return {
    search,
    claims: found.slice(0, claimsAtOnce),
    more: found.length > claimsAtOnce,
    counts: await openClaims(work.db, work.warehouse.id, work.now),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {})
}

export const meta: Route.MetaFunction = () => [{ title: `${say("claim.title")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["claims"][number]

export default function Claims({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const { search, claims, more, counts } = loaderData
  return (
    <SearchedList
      name="claims"
      title="claim.title"
      head={
        <ListCounts
          lists={(["draft", "open", "overdue"] as const).map((list) => ({
            list,
            name: say(`claim.list.${list}`),
            n: counts[list],
          }))}
        />
      }
      answer={actionData?.answer}
      find="claim.find"
      asked={search}
      fields={[
        searchChoice({ name: "list", label: "claim.show", value: search.list }, claimLists, (list) =>
          say(`claim.list.${list}`),
        ),
      ]}
      rows={claims}
      more={more}
      columns={columns()}
      className="case-list"
      nothing="claim.none-found"
      none="claim.none"
    />
  )
}

const columns = (): readonly TableColumn<Row>[] => [
  {
    name: "claim",
    head: say("claim.head.claim"),
    heads: true,
    cell: (one) => (
      <>
        <Link to={`/orders/claims/${one.number}`}>{claimName(one.number)}</Link>
        <br />
        <small>{say(`claim.kind.${one.kind}`)}</small>
      </>
    ),
  },
  {
    name: "carrier",
    head: say("claim.head.carrier"),
    cell: (one) => (
      <>
        {one.carrier}
        <br />
        <span className="code">{one.tracking.join(", ")}</span>
      </>
    ),
  },
  {
    name: "order",
    head: say("claim.head.order"),
    cell: (one) => (
      <>
        <Link to={`/orders/${one.orderNumber}`}>{one.orderNumber}</Link>, {one.customer}
      </>
    ),
  },
  { name: "amount", head: say("claim.head.amount"), className: "figure", cell: (one) => showMoney(one.total) },
  {
    name: "state",
    head: say("claim.head.state"),
    cell: (one) => (
      <>
        <b>{say(`claim.state.${one.state}`)}</b>
        {one.paid ? ` ${showMoney(one.paid)}` : ""}
      </>
    ),
  },
  {
    name: "next",
    head: say("claim.head.until"),
    cell: (one) =>
      one.next ? <span className={one.next.over ? "ember" : undefined}>{nextWords(one.next, shortDay)}</span> : "",
  },
]
