import { Button, Input } from "@chakra-ui/react"
import { addressLines } from "core/address/index.ts"
import { Decimal } from "decimal.js"
import { useState } from "react"
import { data, Link, redirect } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { quoteByNumber, withdrawQuote } from "server/quotes/index.ts"
import { quoteModel } from "server/quotes/paper.ts"
import { mailQuote, mailsOf } from "server/quotes/send.ts"
import { shipQuote } from "server/quotes/ship.ts"
import { clockTime, dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons, sayTrouble, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { act, answerTo, field, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow, withRights } from "../shell/work.ts"
import type { Route } from "./+types/quote"

export async function loader({ params, request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "quotes.make")
  const quote = await quoteByNumber(work.db, work.warehouse, params.number, work.now)
  if (!quote) throw data(null, { status: 404 })
  // what it costs us is for those who see the bench; the sales desk sees what is charged
  const costs = may(work.actor, "packing.see")
  const { asked, quoted } = quote
  return {
    key: crypto.randomUUID(),
    id: quote.id,
    number: quote.number,
    state: quote.state === "open" && quote.over ? ("over" as const) : quote.state,
    validUntil: quote.validUntil,
    customer: quote.customer,
    to: addressLines(asked.shipTo).filter(Boolean),
    goods: [...quoteModel(work.warehouse, quote).goods],
    options: asked.options,
    promisedOn: asked.promisedOn,
    worth: asked.worth,
    note: asked.note,
    currency: quoted.currency,
    services: quoted.services.map((one) => ({
      code: one.code,
      name: one.name,
      carrier: one.carrier,
      arrives: one.arrives,
      late: one.late,
      charged: one.charged,
      best: one.best,
      refusals: one.refusals,
      ...(costs && one.charged !== null && one.contract !== null
        ? {
            contract: one.contract,
            margin: new Decimal(one.charged).sub(one.contract).toFixed(2),
          }
        : {}),
    })),
    chosen: quote.chosen,
    from: quote.from,
    shippedWith: quote.shippedWith,
    orderNumber: new URL(request.url).searchParams.get("orderNumber")?.slice(0, 12) ?? quote.from ?? "",
    madeBy: quote.madeBy,
    madeAt: quote.madeAt,
    mails: await mailsOf(work, quote.id),
    costs,
    mayShip: may(work.actor, "orders.work"),
  }
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const quote = await withRights(() => quoteByNumber(work.db, work.warehouse, params.number, work.now))
  if (!quote) throw data(null, { status: 404 })
  return answerTo(request, work, {
    mail: act(
      z.object({ to: field.text() }),
      (_, { to }, { key }) => mailQuote(work, quote.number, to, key),
      (_, { to }) => say("quote.mailed", { to }),
      { at: { "quote.no-address": "to" } },
    ),
    ship: act(
      z.object({ orderNumber: field.text(), service: field.text() }),
      (_, { orderNumber, service }) => shipQuote(work, quote.id, orderNumber, service),
      ({ orderNumber }) => {
        throw redirect(may(work.actor, "packing.see") ? `/shipment/${orderNumber}` : `/orders/${orderNumber}`)
      },
    ),
    withdraw: act(
      nothing,
      () => withdrawQuote(work, quote.id),
      () => say("quote.done-withdrawn"),
    ),
  })
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${params.number} · ${say("quote.title")} · ${say("app.name")}` },
]

export default function QuoteScreen({ loaderData: quote, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  useLive(null)
  const taken = quote.services.filter((one) => one.charged !== null)
  const [picked, setPicked] = useState(quote.chosen ?? taken[0]?.code ?? "")
  const open = quote.state === "open"
  const state = say(`quote.state.${quote.state}`, { orderNumber: quote.shippedWith ?? "" })
  const name = taken.find((one) => one.code === picked)?.name ?? ""
  return (
    <Screen
      ribbon={{}}
      name="quote"
      sill={{
        plate:
          open && quote.mayShip
            ? {
                verb: say("quote.plate-use", { service: name }),
                detail: quote.orderNumber
                  ? say("quote.plate-use-for", { orderNumber: quote.orderNumber })
                  : say("quote.plate-use-detail"),
                ready: true,
                form: "quote-use",
              }
            : {
                verb: say("quote.plate-back"),
                detail: say("quote.plate-back-detail", { state }),
                ready: true,
                to: "/orders/quotes",
              },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="quote-body">
        <QuoteFacts quote={quote} open={open} state={state} />
        <QuoteServices quote={quote} open={open} picked={picked} onPick={setPicked} />
      </div>
    </Screen>
  )
}

type Quote = Route.ComponentProps["loaderData"]

/** Whom the quote is for, until when, for which goods, and to whom it was sent. */
function QuoteFacts({ quote, open, state }: { quote: Quote; open: boolean; state: string }) {
  const { zone } = useShell()
  return (
    <section className="quote-facts">
      <h1>{quote.number}</h1>
      <p>
        <b>{quote.customer.name || quote.to[0]}</b>
        {quote.to
          .filter((line) => line !== (quote.customer.name || quote.to[0]))
          .map((line) => (
            <span key={line}>{line}</span>
          ))}
      </p>
      <dl>
        <dt>{say("quote.until")}</dt>
        <dd className={quote.state === "over" ? "ember" : undefined}>{shortDay(quote.validUntil)}</dd>
        <dt>{say("quote.by")}</dt>
        <dd>
          {quote.madeBy}, {dayAndClock(quote.madeAt, zone)}
        </dd>
        {quote.from ? (
          <>
            <dt>{say("quote.order")}</dt>
            <dd>
              <Link to={`/orders/${quote.from}`}>{quote.from}</Link>
            </dd>
          </>
        ) : null}
        {quote.promisedOn ? (
          <>
            <dt>{say("quote.must")}</dt>
            <dd>{shortDay(quote.promisedOn)}</dd>
          </>
        ) : null}
        {quote.worth ? (
          <>
            <dt>{say("quote.worth")}</dt>
            <dd>{quote.worth}</dd>
          </>
        ) : null}
      </dl>
      <ul>
        {quote.goods.map((line) => (
          <li key={line}>{line}</li>
        ))}
        {quote.options.map((option) => (
          <li key={option}>{wordFor("option", option)}</li>
        ))}
      </ul>
      {quote.note ? <p>{quote.note}</p> : null}
      {open ? null : <p className="strong">{state}</p>}
      <p>
        <a href={`/orders/quotes/${quote.number}/quote.pdf`}>{say("quote.pdf")}</a>{" "}
        <Link to="/orders/quotes">{say("quote.title")}</Link>
      </p>
      {quote.state === "withdrawn" ? null : (
        <ActForm intent="mail" sends={{ key: quote.key }} className="quote-mail">
          <label htmlFor="quote-to">{say("quote.mail-to")}</label>
          <Input id="quote-to" name="to" type="email" width="200px" required maxLength={120} />
          <Button type="submit">{say("quote.mail")}</Button>
        </ActForm>
      )}
      <ul>
        {quote.mails.map((mail) => (
          <li key={mail.id} className={mail.trouble ? "ember" : undefined}>
            {say(`quote.mail-state.${mail.state}`, { to: mail.to })} {sayTrouble(mail.trouble)}
          </li>
        ))}
      </ul>
      {open ? (
        <Act intent="withdraw">
          <Button type="submit">{say("quote.withdraw")}</Button>
        </Act>
      ) : null}
    </section>
  )
}

/** What each service is charged and costs, and the order that goes with one of them. */
function QuoteServices({
  quote,
  open,
  picked,
  onPick,
}: {
  quote: Quote
  open: boolean
  picked: string
  onPick: (code: string) => void
}) {
  const taken = quote.services.filter((one) => one.charged !== null)
  const refused = quote.services.filter((one) => one.charged === null)
  return (
    <section className="quote-services">
      <ActForm intent="ship" id="quote-use">
        <table className="rows">
          <thead>
            <tr>
              <th scope="col">{say("quote.service")}</th>
              <th scope="col">{say("quote.arrives")}</th>
              <th scope="col" className="figure">
                {say("quote.charged")} {quote.currency}
              </th>
              {quote.costs ? (
                <>
                  <th scope="col" className="figure">
                    {say("quote.cost")}
                  </th>
                  <th scope="col" className="figure">
                    {say("quote.margin")}
                  </th>
                </>
              ) : null}
            </tr>
          </thead>
          <tbody>
            {taken.map((one) => (
              <tr key={one.code} className={one.code === picked ? "next" : one.late ? "pale" : undefined}>
                <th scope="row">
                  <label className="check">
                    <input
                      type="radio"
                      name="service"
                      value={one.code}
                      checked={one.code === picked}
                      onChange={() => onPick(one.code)}
                    />{" "}
                    {one.name}
                  </label>
                </th>
                <td className="sign">
                  {one.arrives ? `${shortDay(one.arrives.date)}, ${clockTime(one.arrives.time)}` : ""}
                  {one.late ? ` ${say("rate.late")}` : ""}
                </td>
                <td className="figure strong">{one.charged}</td>
                {quote.costs ? (
                  <>
                    <td className="figure">{one.contract}</td>
                    <td className="figure">{one.margin}</td>
                  </>
                ) : null}
              </tr>
            ))}
          </tbody>
        </table>
        {open && quote.mayShip ? (
          <p className="quote-order">
            <label htmlFor="quote-order">{say("quote.use")}</label>
            <Input
              id="quote-order"
              name="orderNumber"
              defaultValue={quote.orderNumber}
              width="110px"
              required
              maxLength={12}
            />
            <Button type="submit">{say("quote.use-do")}</Button>
            {quote.from ? null : <Link to={`/orders/new?quote=${quote.number}`}>{say("quote.write-order")}</Link>}
          </p>
        ) : null}
      </ActForm>
      {refused.length > 0 ? (
        <details className="cannot">
          <summary>{say("rate.cannot-n", { n: refused.length })}</summary>
          <ul>
            {refused.map((one) => (
              <li key={one.code}>
                <b>{one.name}</b> {sayReasons(one.refusals)}
              </li>
            ))}
          </ul>
        </details>
      ) : null}
    </section>
  )
}
