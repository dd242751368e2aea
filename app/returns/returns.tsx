import { Button } from "@chakra-ui/react"
import { returnLists } from "core/returns/index.ts"
import { Link, useSearchParams } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { arrive, arriveWithoutLabel, withoutLabelForm } from "server/returns/arrive.ts"
import { openReturns, returnsAtOnce, searchReturns } from "server/returns/list.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { ListCounts, SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/returns"
import { sayArrived, scannedBack } from "./scanned.server.ts"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { asked, one, query } = searchAsked(request)
  const search = { ...asked, list: one("list", returnLists, "arrived") }
  const found = await searchReturns(work.db, work.warehouse.id, search, work.now)
  return {
    search,
    returns: found.slice(0, returnsAtOnce),
    more: found.length > returnsAtOnce,
    counts: await openReturns(work.db, work.warehouse.id, work.now),
    unknown: (query.get("unknown") ?? "").slice(0, 60),
    mayWork: may(work.actor, "dock.work"),
    key: crypto.randomUUID(),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(
    request,
    work,
    {
      arrived: act(z.object({ package: field.id }), (work, { package: id }) => arrive(work, id), sayArrived),
      unlabeled: act(
        withoutLabelForm,
        (work, said, { key }) => arriveWithoutLabel(work, said, key),
        ({ name }) => say("goods-back.recorded", { name }),
      ),
    },
    { scanned: (text) => scannedBack(work, text, "list") },
  )
}

export const meta: Route.MetaFunction = () => [{ title: `${say("goods-back.title")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["returns"][number]

export default function Returns({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const [query] = useSearchParams()
  useLive(null)
  const { search, returns, more, counts, mayWork, unknown, key } = loaderData
  return (
    <SearchedList
      name="returns"
      title="goods-back.title"
      head={
        <ListCounts
          lists={(["arrived", "awaited", "overdue", "in-stock"] as const).map((list) => ({
            list,
            name: say(`goods-back.list.${list}`),
            n: counts[list],
          }))}
        />
      }
      plate={{ verb: say("goods-back.plate"), detail: say("goods-back.plate-detail"), ready: false }}
      answer={actionData?.answer}
      words={[
        [say("words.package"), say("goods-back.words-package")],
        [say("words.order"), say("goods-back.words-order")],
      ]}
      find="goods-back.find"
      asked={search}
      fields={[
        searchChoice({ name: "list", label: "goods-back.show", value: search.list }, returnLists, (list) =>
          say(`goods-back.list.${list}`),
        ),
      ]}
      rows={returns}
      more={more}
      columns={columnsOf(zone, mayWork)}
      className="case-list"
      nothing="goods-back.none-found"
      none="goods-back.none"
    >
      {mayWork ? (
        <details
          className="without-label"
          open={unknown !== "" && !actionData?.answer}
          key={`${query} ${actionData?.answer.key}`}
        >
          <summary>{say("goods-back.without-label")}</summary>
          {unknown ? <p>{say("goods-back.not-known", { code: unknown })}</p> : null}
          <ActForm intent="unlabeled" id="unlabeled-form" sends={{ key }} className="case-acts">
            <TextField name="note" label="goods-back.what-is-it" most={200} />
            <TextField name="code" label="goods-back.code" value={unknown} most={60} />
            <TextField name="order" id="of-order" label="goods-back.of-order" most={20} />
            <TextField name="packages" label="goods-back.packages" value="1" mode="numeric" most={3} />
            <Button type="submit">{say("goods-back.take-in")}</Button>
          </ActForm>
        </details>
      ) : null}
    </SearchedList>
  )
}

const columnsOf = (zone: string, mayWork: boolean): readonly TableColumn<Row>[] => [
  {
    name: "return",
    head: say("goods-back.return"),
    heads: true,
    cell: (one) => (
      <>
        <Link to={`/orders/returns/${one.name}`}>{one.name}</Link>
        <br />
        <small>{say(`goods-back.kind.${one.kind}`)}</small>
      </>
    ),
  },
  {
    name: "from",
    head: say("goods-back.from"),
    cell: (one) =>
      one.orderNumber ? (
        <>
          {[one.customer, one.place].filter(Boolean).join(", ")}
          <br />
          <Link to={`/orders/${one.orderNumber}`}>{say("goods-back.order", { order: one.orderNumber })}</Link>
        </>
      ) : (
        one.note || say("goods-back.nobody-knows")
      ),
  },
  {
    name: "packages",
    head: say("goods-back.packages"),
    cell: (one) => {
      const here = one.packages.filter((each) => each.arrivedAt).length
      const next = one.packages.find((each) => !each.arrivedAt)
      return (
        <>
          {say("goods-back.here-of", { here, of: one.packages.length })}
          {next?.state ? (
            <>
              <br />
              <small>{[next.carrier, say(`tracking.state.${next.state}`)].join(", ")}</small>
            </>
          ) : null}
        </>
      )
    },
  },
  {
    name: "pieces",
    head: say("goods-back.pieces"),
    cell: (one) => (
      <>
        {say("goods-back.announced-n", { n: one.announced })}
        {one.found > 0 || one.state !== "awaited" ? (
          <>
            <br />
            {say("goods-back.counted-n", { n: one.found })}
          </>
        ) : null}
      </>
    ),
  },
  {
    name: "state",
    head: say("goods-back.state"),
    cell: (one) => (
      <>
        <b>{say(`goods-back.is.${one.state}`)}</b>
        {one.late ? <b className="ember"> {say("goods-back.late")}</b> : null}
        <br />
        <small>{stateOf(one, zone)}</small>
      </>
    ),
  },
  {
    name: "acts",
    head: say("tracking.do"),
    className: "acts",
    cell: (one) => {
      const away = one.packages.filter((each) => !each.arrivedAt)
      const [next] = away
      if (!mayWork || !next || one.state === "declined") return null
      if (away.length > 1) return <Link to={`/orders/returns/${one.name}`}>{say("goods-back.open")}</Link>
      return (
        <Act intent="arrived" sends={{ package: next.id }}>
          <Button
            type="submit"
            variant="ghost"
            aria-label={say("goods-back.mark-arrived-of", { name: `${one.name}.${next.piece}` })}
          >
            {say("goods-back.mark-arrived")}
          </Button>
        </Act>
      )
    },
  },
]

/** Since when, or until when, a return stands as it does. */
function stateOf(one: Row, zone: string): string {
  if (one.state === "declined" || one.state === "closed") return say("tracking.by", { name: one.by, note: one.note })
  if (one.state === "inspected") return say("goods-back.here-n", { n: one.here })
  if (one.arrivedAt) return dayAndClock(one.arrivedAt, zone)
  return one.validUntil ? say("return.until", { day: shortDay(one.validUntil) }) : ""
}
