import { moneyText, showMoney, sumMoney } from "core/money/index.ts"
import { accepted } from "core/refusal/index.ts"
import { Link } from "react-router"
import { joinedNow, joinOffers, joinOrders, partOrder } from "server/decisions/join.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/joining"
import { Leaves } from "./JoinOffers.tsx"
import { joinOfferShown } from "./joinOffers.server.ts"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const offers = await joinOffers(work, work.warehouse.id)
  return {
    offers: offers.map(joinOfferShown),
    saving: moneyText(
      sumMoney(
        offers.map((one) => one.saving),
        work.warehouse.currency,
      ),
    ),
    joined: await joinedNow(work.db, work.warehouse.id),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const ids = (text: string) => text.split(",").map(Number).filter(Number.isInteger)
  return answerTo(request, work, {
    join: act(
      z.object({ orders: field.many(z.string().max(400)) }),
      async (_, { orders }) => {
        const outcomes = []
        for (const one of orders) outcomes.push(await joinOrders(work, ids(one)))
        return accepted(outcomes)
      },
      (outcomes) => {
        const refused = outcomes.flatMap((one) => (one.ok ? [] : [sayReasons(one.reasons)]))
        const words = say("combine.done", { n: outcomes.length - refused.length })
        return refused.length > 0 ? refusal([words, ...refused].join(" ")) : words
      },
    ),
    part: act(
      z.object({ order: field.id }),
      (_, { order }) => partOrder(work, order),
      () => say("combine.parted"),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("combine.title")} · ${say("app.name")}` }]

export default function JoinPage({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { offers, joined, saving } = loaderData
  useLive(null)
  return (
    <Screen
      ribbon={{}}
      name="joining"
      sill={{
        plate:
          offers.length > 0
            ? {
                verb: say("combine.plate", { n: offers.length }),
                detail: say("combine.plate-detail", { saving: showMoney(saving) }),
                ready: true,
                form: "join-all",
              }
            : { verb: say("plate.nothing"), detail: say("combine.none"), ready: false },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("combine.title")}</h1>
        <Link to="/orders">{say("orders.title")}</Link>
      </div>
      <Act intent="join" id="join-all">
        {offers.map((one) => (
          <input
            key={one.orders[0]?.id}
            type="hidden"
            name="orders"
            value={one.orders.map((order) => order.id).join()}
          />
        ))}
      </Act>
      <div className="scrolls joining-list">
        <p className="note">{say("combine.note")}</p>
        {offers.length === 0 ? <p>{say("combine.none")}</p> : null}
        {offers.length > 0 ? (
          <Table
            caption={say("combine.title")}
            rows={offers}
            rowKey={(one) => one.orders[0]?.id ?? 0}
            columns={offerColumns()}
          />
        ) : null}
        {joined.length > 0 ? (
          <>
            <h2>{say("combine.now")}</h2>
            <Table
              caption={say("combine.now")}
              headless
              rows={joined}
              rowKey={(one) => one.lead}
              columns={joinedColumns}
            />
          </>
        ) : null}
      </div>
    </Screen>
  )
}

type Loaded = Awaited<ReturnType<typeof loader>>

/** Orders of one place beside each other, each a link. */
const orderLinks = (one: { readonly orders: readonly { readonly id: number; readonly orderNumber: string }[] }) =>
  one.orders.map((order) => (
    <Link key={order.id} to={`/orders/${order.orderNumber}`}>
      {order.orderNumber}
    </Link>
  ))

const offerColumns = (): readonly TableColumn<Loaded["offers"][number]>[] => [
  { name: "orders", head: say("combine.head.orders"), heads: true, className: "benches", cell: orderLinks },
  { name: "customer", head: say("combine.head.customer"), cell: (one) => one.orders[0]?.customer ?? "" },
  { name: "to", head: say("combine.head.to"), cell: (one) => one.place },
  ...(["apart", "together"] as const).map((name) => ({
    name,
    head: say(`combine.head.${name}`),
    className: "figure",
    by: (one: Loaded["offers"][number]) => Number(one[name].amount),
    cell: (one: Loaded["offers"][number]) => showMoney(one[name]),
  })),
  {
    name: "saves",
    head: say("combine.head.saves"),
    className: "figure",
    by: (one) => Number(one.saving.amount),
    cell: (one) => <b>{showMoney(one.saving)}</b>,
  },
  {
    name: "leaves",
    head: say("combine.head.leaves"),
    by: (one) => one.to?.cutOff.getTime() ?? Number.POSITIVE_INFINITY,
    cell: (one) => (
      <>
        <Leaves at={one.to} />
        {one.from && one.to && one.from.cutOff.getTime() !== one.to.cutOff.getTime() ? (
          <small>
            {" "}
            {say("combine.instead")} <Leaves at={one.from} />
          </small>
        ) : null}
      </>
    ),
  },
  {
    name: "act",
    head: <span className="sr-only">{say("combine.act")}</span>,
    className: "acts",
    cell: (one) => (
      <Act intent="join" sends={{ orders: one.orders.map((order) => order.id).join() }}>
        <button type="submit" className="as-link">
          {say("combine.do", { n: one.orders.length })}
        </button>
      </Act>
    ),
  },
]

const joinedColumns: readonly TableColumn<Loaded["joined"][number]>[] = [
  { name: "orders", head: "", heads: true, className: "benches", cell: orderLinks },
  { name: "customer", head: "", cell: (one) => one.customer },
  { name: "place", head: "", cell: (one) => one.place },
  {
    name: "for",
    head: "",
    cell: (one) =>
      one.joinedFor
        ? say("combine.for", {
            together: showMoney(one.joinedFor.together),
            apart: showMoney(one.joinedFor.apart),
          })
        : "",
  },
  {
    name: "act",
    head: "",
    className: "acts",
    cell: (one) => (
      <Act intent="part" sends={{ order: one.lead }}>
        <button type="submit" className="as-link">
          {say("combine.part-all")}
        </button>
      </Act>
    ),
  },
]
