import { Button, Input } from "@chakra-ui/react"
import { reason, refused } from "core/refusal/index.ts"
import { useState } from "react"
import { Link, redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { mostAtOnce, undoGroup } from "server/decisions/group.ts"
import type { Work } from "server/http/context.ts"
import { workContext } from "server/http/context.ts"
import { sourceNames } from "server/intake/source.ts"
import { onceForEachChange } from "server/live/kept.ts"
import type { OrderFilter } from "server/orders/filter.ts"
import { filterQuery, filterStages, promiseDays, readFilter, receiptDays } from "server/orders/filter.ts"
import { allOrders, findOrders } from "server/orders/list.ts"
import { tagsOf } from "server/orders/marks.ts"
import { dropView, keepView, views } from "server/orders/views.ts"
import { carrierNames } from "server/setup/carriers.ts"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { GroupBar, groupPlate, LastGroup, useChosen } from "../parts/GroupBar.tsx"
import {
  changeChoices,
  changeMany,
  groupFields,
  lastOf,
  toldUndone,
  undoFields,
  whatsFor,
} from "../parts/group.server.ts"
import { toldGroup } from "../parts/groupAnswer.ts"
import { Tags } from "../parts/Marks.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { tickColumn } from "../parts/tickColumn.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { resolveScan } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import type { Route } from "./+types/orders"
import { WhichOrders } from "./WhichOrders.tsx"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  const search = new URL(request.url).searchParams
  const filter = readFilter(search)
  const { db, warehouse } = work
  const [page, last, own, setUp, changes] = await Promise.all([
    findOrders(work, work.warehouse, filter, Number(search.get("before")) || null),
    lastOf(work),
    views(work),
    onceForEachChange(work, warehouse.id, "list choices", async () => {
      const [sources, carriers] = await Promise.all([sourceNames(db), carrierNames(db)])
      return { sources, carriers }
    }),
    changeChoices(work),
  ])
  const tagged = await tagsOf(
    work.db,
    page.orders.map((order) => order.id),
  )
  return {
    filter,
    query: filterQuery(filter),
    paged: search.has("before"),
    next: page.next,
    views: own,
    choices: {
      stages: [...filterStages],
      promised: [...promiseDays],
      received: [...receiptDays],
      ...setUp,
      tags: changes.tags,
    },
    changes,
    whats: whatsFor(work, changes, ["remove"]),
    mayWork: may(work.actor, "orders.work"),
    last,
    key: crypto.randomUUID(),
    orders: page.orders.map((order) => ({
      id: order.id,
      orderNumber: order.orderNumber,
      customer: order.customer,
      place: order.place,
      po: order.poNumber,
      source: order.sourceNumber,
      promised: order.promisedOn,
      lines: order.lines,
      stage: order.stage,
      stops: order.stops,
      tags: tagged.get(order.id) ?? [],
    })),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const query = field.text(2_000).transform((text) => readFilter(new URLSearchParams(text)))
  return answerTo(
    request,
    work,
    {
      "keep-view": act(
        z.object({ name: field.text(), query, shared: field.tick }),
        (_, { name, query, shared }) => keepView(work, name, query, shared),
        () => say("views.kept"),
      ),
      "drop-view": act(z.object({ view: field.id }), (_, { view }) => always(dropView(work, view))),
      group: act(
        z.looseObject({ ...groupFields, every: field.tick, query }),
        (_, asked, { form }) => changeChosen(work, asked, form),
        (result) => toldGroup("group.done", result),
      ),
      undo: act(undoFields, (_, { group }) => undoGroup(work, group), toldUndone),
    },
    {
      scanned: async (text) => {
        const found = await resolveScan(work, text)
        // what is no code is words to find orders by
        throw redirect(found.to ?? `/orders?find=${encodeURIComponent(text.slice(0, 100))}`)
      },
    },
  )
}

/** Changes the orders that are chosen, or all that the filter finds. */
async function changeChosen(
  work: Work,
  asked: { what: string; every: boolean; query: OrderFilter; key: string; order: number[] },
  form: FormData,
) {
  const ids = asked.every ? await allOrders(work, work.warehouse, asked.query, mostAtOnce) : asked.order
  if (ids === null) return refused(reason("group.over", { most: mostAtOnce }))
  const view = asked.every ? (await views(work)).find((one) => one.query === filterQuery(asked.query))?.name : undefined
  return changeMany(work, ids, asked, form, view ? `view ${view}` : "orders")
}

export const meta: Route.MetaFunction = () => [{ title: `${say("orders.title")} · ${say("app.name")}` }]

export default function Orders({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { orders, filter, query, next, last, mayWork } = loaderData
  const { actor } = useShell()
  const [what, setWhat] = useState("promise")
  const chosen = useChosen(
    orders.map((order) => order.id),
    query,
  )
  useLive(null)
  return (
    <Screen
      ribbon={{}}
      name="orders"
      sill={{
        plate:
          chosen.any && mayWork
            ? groupPlate(chosen, what)
            : actor.seesFloor
              ? { verb: say("orders.plate"), detail: say("orders.plate-detail"), ready: true, to: "/orders/intake" }
              : { verb: say("plate.nothing"), detail: say("orders.find-label"), ready: false },
        answer: actionData?.answer,
        words: [
          [say("words.order"), say("words.order.does")],
          [say("words.any"), say("words.any.does")],
        ],
      }}
    >
      <div className="place-head">
        <h1>{say("orders.title")}</h1>
        <search className="find">
          <label htmlFor="find">{say("orders.find-label")}</label>
          <Input id="find" name="find" form="which" defaultValue={filter.find} key={filter.find} maxLength={100} />
          <Button type="submit" form="which">
            {say("orders.find")}
          </Button>
        </search>
        <p className="place-ways">
          <Link to="/orders/joining">{say("combine.title")}</Link>
          <Link to="/orders/cheaper">{say("cheaper.page")}</Link>
          {mayWork ? <Link to="/orders/reports">{say("report.title")}</Link> : null}
          <Link to="/orders/messages">{say("tell.title")}</Link>
          <Link to="/orders/attention">{say("tracking.attention")}</Link>
          {mayWork ? <Link to="/orders/returns">{say("goods-back.title")}</Link> : null}
          {mayWork ? <Link to="/orders/claims">{say("claim.title")}</Link> : null}
          <Link to="/orders/quotes">{say("quote.title")}</Link>
          {mayWork ? <Link to="/orders/runs">{say("shipping-run.list")}</Link> : null}
        </p>
      </div>
      <div className="orders-body">
        <WhichOrders filter={filter} query={query} choices={loaderData.choices} views={loaderData.views} />
        <section className="orders-found">
          {orders.length === 0 ? (
            <div className="nothing">
              <p>{say(query ? "orders.none" : "orders.empty")}</p>
              {query ? (
                <p>
                  {say("orders.none-hint")} <Link to="/orders">{say("orders.all")}</Link>
                </p>
              ) : null}
            </div>
          ) : (
            <div className="scrolls">
              <Table
                caption={say("orders.table")}
                ref={chosen.table}
                rows={orders}
                rowKey={(order) => order.id}
                rowClass={(order) => (chosen.ids.has(order.id) ? "next" : undefined)}
                // a page of more is not all that would be sorted
                sorts={!loaderData.paged && !next}
                columns={
                  mayWork
                    ? [tickColumn<FoundOrder>(chosen, orders.length, (order) => order), ...orderColumns()]
                    : orderColumns()
                }
              />
            </div>
          )}
          {loaderData.paged || next ? (
            <p className="pager">
              {loaderData.paged ? <Link to={`/orders?${query}`}>{say("orders.newest")}</Link> : null}{" "}
              {next ? <Link to={`/orders?${query}&before=${next}`}>{say("orders.next")}</Link> : null}
            </p>
          ) : null}
          <LastGroup last={last} />
          {mayWork && orders.length > 0 ? (
            <GroupBar
              chosen={chosen}
              what={what}
              onWhat={setWhat}
              sends={{ key: loaderData.key, query }}
              more={next !== null || loaderData.paged}
              whats={loaderData.whats}
              choices={loaderData.changes}
            />
          ) : null}
        </section>
      </div>
    </Screen>
  )
}

type FoundOrder = Awaited<ReturnType<typeof loader>>["orders"][number]

/** Of every order that is found, what tells it from others. */
const orderColumns = (): readonly TableColumn<FoundOrder>[] => [
  {
    name: "order",
    head: say("orders.head.order"),
    heads: true,
    by: (order) => order.orderNumber,
    cell: (order) => <Link to={`/orders/${order.orderNumber}`}>{order.orderNumber}</Link>,
  },
  {
    name: "customer",
    head: say("orders.head.customer"),
    by: (order) => order.customer,
    cell: (order) => (
      <>
        {order.customer} <Tags tags={order.tags} />
      </>
    ),
  },
  { name: "place", head: say("orders.head.place"), cell: (order) => order.place },
  { name: "po", head: say("orders.head.po"), cell: (order) => order.po },
  { name: "source", head: say("orders.head.source"), className: "code", cell: (order) => order.source },
  {
    name: "promised",
    head: say("orders.head.promised"),
    by: (order) => order.promised ?? "9",
    cell: (order) => (order.promised ? shortDay(order.promised) : "–"),
  },
  { name: "lines", head: say("orders.head.lines"), className: "figure", cell: (order) => order.lines },
  {
    name: "stage",
    head: say("orders.head.stage"),
    className: (order) => (order.stops.length > 0 ? "ember" : undefined),
    cell: (order) =>
      order.stops.length > 0 ? say("orders.stopped", { why: sayReasons(order.stops) }) : say(`stage.${order.stage}`),
  },
]
