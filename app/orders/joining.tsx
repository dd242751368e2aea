import { moneyText, showMoney, sumMoney } from "core/money/index.ts"
import { accepted } from "core/refusal/index.ts"
import { Link } from "react-router"
import { joinedNow, joinOffers, joinOrders, partOrder } from "server/decisions/join.ts"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
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
          <table className="rows">
            <caption className="sr-only">{say("combine.title")}</caption>
            <thead>
              <tr>
                {(["orders", "customer", "to", "apart", "together", "saves", "leaves"] as const).map((name) => (
                  <th
                    key={name}
                    scope="col"
                    className={["apart", "together", "saves"].includes(name) ? "figure" : undefined}
                  >
                    {say(`combine.head.${name}`)}
                  </th>
                ))}
                <th scope="col">
                  <span className="sr-only">{say("combine.act")}</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {offers.map((one) => (
                <tr key={one.orders[0]?.id}>
                  <th scope="row" className="benches">
                    {one.orders.map((order) => (
                      <Link key={order.id} to={`/orders/${order.orderNumber}`}>
                        {order.orderNumber}
                      </Link>
                    ))}
                  </th>
                  <td>{one.orders[0]?.customer}</td>
                  <td>{one.place}</td>
                  <td className="figure">{showMoney(one.apart)}</td>
                  <td className="figure">{showMoney(one.together)}</td>
                  <td className="figure">
                    <b>{showMoney(one.saving)}</b>
                  </td>
                  <td>
                    <Leaves at={one.to} />
                    {one.from && one.to && one.from.cutOff.getTime() !== one.to.cutOff.getTime() ? (
                      <small>
                        {" "}
                        {say("combine.instead")} <Leaves at={one.from} />
                      </small>
                    ) : null}
                  </td>
                  <td className="acts">
                    <Act intent="join" sends={{ orders: one.orders.map((order) => order.id).join() }}>
                      <button type="submit" className="as-link">
                        {say("combine.do", { n: one.orders.length })}
                      </button>
                    </Act>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : null}
        {joined.length > 0 ? (
          <>
            <h2>{say("combine.now")}</h2>
            <table className="rows">
              <caption className="sr-only">{say("combine.now")}</caption>
              <tbody>
                {joined.map((one) => (
                  <tr key={one.lead}>
                    <th scope="row" className="benches">
                      {one.orders.map((order) => (
                        <Link key={order.id} to={`/orders/${order.orderNumber}`}>
                          {order.orderNumber}
                        </Link>
                      ))}
                    </th>
                    <td>{one.customer}</td>
                    <td>{one.place}</td>
                    <td>
                      {one.joinedFor
                        ? say("combine.for", {
                            together: showMoney(one.joinedFor.together),
                            apart: showMoney(one.joinedFor.apart),
                          })
                        : ""}
                    </td>
                    <td className="acts">
                      <Act intent="part" sends={{ order: one.lead }}>
                        <button type="submit" className="as-link">
                          {say("combine.part-all")}
                        </button>
                      </Act>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        ) : null}
      </div>
    </Screen>
  )
}
