import { Button, Input } from "@chakra-ui/react"
import { placeOf } from "core/address/index.ts"
import { showMoney } from "core/money/index.ts"
import { Form, Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { mostQuotes, quotes } from "server/quotes/index.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Table } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/quotes"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "quotes.make")
  const words = (new URL(request.url).searchParams.get("words") ?? "").slice(0, 80)
  const rows = await quotes(work.db, work.warehouse, words, work.now)
  return {
    words,
    whole: rows.length < mostQuotes,
    rows: rows.map((one) => {
      const best = one.quoted.services.find((service) => service.best)
      return {
        number: one.number,
        customer: one.customer.name || one.asked.shipTo.company,
        place: placeOf(one.asked.shipTo),
        best: best?.charged
          ? { name: best.name, amount: { amount: best.charged, currency: one.quoted.currency } }
          : null,
        validUntil: one.validUntil,
        state: one.state === "open" && one.over ? "over" : one.state,
        shippedWith: one.shippedWith ?? "",
        madeBy: one.madeBy,
        madeAt: one.madeAt,
      }
    }),
  }
}

export const action = ({ request, context }: Route.ActionArgs) => answerTo(request, context.get(workContext), {})

export const meta: Route.MetaFunction = () => [{ title: `${say("quote.title")} · ${say("app.name")}` }]

export default function Quotes({ loaderData, actionData }: Route.ComponentProps) {
  const { rows, whole, words } = loaderData
  const { zone } = useShell()
  return (
    <Screen
      ribbon={{}}
      name="quotes"
      sill={{
        plate: {
          verb: say("quote.new"),
          detail: say("quote.plate-detail", { days: 14 }),
          ready: true,
          to: "/orders/quotes/new",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("quote.title")}</h1>
        <Form className="quote-search">
          <label htmlFor="quote-words" className="sr-only">
            {say("quote.search")}
          </label>
          <Input id="quote-words" name="words" defaultValue={words} width="260px" placeholder={say("quote.search")} />
          <Button type="submit">{say("quote.find")}</Button>
        </Form>
        <Link to="/orders">{say("place.orders")}</Link>
      </div>
      {rows.length === 0 ? <p className="note">{say(words ? "quote.none-found" : "quote.none")}</p> : null}
      {rows.length > 0 ? (
        <div className="quote-list">
          <Table
            rows={rows}
            rowKey={(one) => one.number}
            sorts={whole}
            rowClass={(one) => (one.state === "open" ? undefined : "pale")}
            columns={[
              {
                name: "number",
                head: say("quote.number"),
                heads: true,
                cell: (one) => <Link to={`/orders/quotes/${one.number}`}>{one.number}</Link>,
              },
              { name: "customer", head: say("quote.customer"), cell: (one) => one.customer },
              { name: "place", head: say("quote.place"), cell: (one) => one.place },
              {
                name: "best",
                head: say("quote.best"),
                className: "figure",
                by: (one) => Number(one.best?.amount.amount ?? Number.POSITIVE_INFINITY),
                cell: (one) => (one.best ? showMoney(one.best.amount) : ""),
              },
              {
                name: "until",
                head: say("quote.until"),
                by: (one) => one.validUntil,
                cell: (one) =>
                  one.state === "open"
                    ? shortDay(one.validUntil)
                    : wordFor("quote.state", one.state, { orderNumber: one.shippedWith ?? "" }),
              },
              {
                name: "by",
                head: say("quote.by"),
                by: (one) => one.madeAt.getTime(),
                cell: (one) => (
                  <>
                    {one.madeBy}, {dayAndClock(one.madeAt, zone)}
                  </>
                ),
              },
            ]}
          />
        </div>
      ) : null}
    </Screen>
  )
}
