import { optionCodes } from "core/tariff/index.ts"
import { Link, redirect, useNavigation } from "react-router"
import { workContext } from "server/http/context.ts"
import { orderIdOf } from "server/orders/row.ts"
import { askedFrom } from "server/quotes/form.ts"
import { makeQuote } from "server/quotes/index.ts"
import { askedOfOrder } from "server/quotes/order.ts"
import { customersByName } from "server/setup/customerNamed.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Choice, Lines, TextField } from "../parts/Fields.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/quote-new"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "quotes.make")
  const orderNumber = new URL(request.url).searchParams.get("order")
  return {
    key: crypto.randomUUID(),
    orderNumber: orderNumber ?? "",
    home: work.warehouse.country,
    // an order fills the form; what it says can be changed
    start: orderNumber ? await askedOfOrder(work, orderNumber) : null,
    customers: await customersByName(work.db),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), {
    quote: act(
      z.looseObject({ orderNumber: field.text(12), days: field.id }),
      async (work, { orderNumber, days }, { form, key }) => {
        const asked = askedFrom(form)
        if (!asked.ok) return asked
        const orderId = orderNumber ? await orderIdOf(work.db, work.warehouse.id, orderNumber) : null
        return makeQuote(work, { asked: asked.value, days: days || undefined, orderId }, key)
      },
      ({ number }) => {
        throw redirect(`/orders/quotes/${number}`)
      },
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("quote.new")} · ${say("app.name")}` }]

export default function NewQuote({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const { start, customers, orderNumber, key, home } = loaderData
  return (
    <Screen
      ribbon={{}}
      name="quote-new"
      sill={{
        plate: {
          verb: say("quote.plate"),
          detail: say("quote.plate-detail", { days: 14 }),
          ready: !busy,
          form: "quote-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("quote.new")}</h1>
        {orderNumber ? <b>{orderNumber}</b> : null}
        <Link to="/orders/quotes">{say("quote.title")}</Link>
      </div>
      <ActForm id="quote-form" intent="quote" sends={{ key, orderNumber }} className="quote-form">
        <fieldset>
          <TextField
            name="customer"
            label="quote.field.customer"
            value={start?.customer ?? ""}
            list="quote-customers"
          />
          <datalist id="quote-customers">
            {customers.map((one: { code: string; name: string }) => (
              <option key={one.code} value={one.code}>
                {one.name}
              </option>
            ))}
          </datalist>
          <TextField name="company" label="quote.field.company" value={start?.company ?? ""} />
          <TextField name="street" label="quote.field.street" value={start?.street ?? ""} />
          <TextField name="city" label="quote.field.city" value={start?.city ?? ""} />
          <div className="quote-pair">
            <TextField name="state" label="quote.field.state" value={start?.state ?? ""} most={6} />
            <TextField
              name="postalCode"
              label="quote.field.postalCode"
              value={start?.postalCode ?? ""}
              most={12}
              needed
            />
            <TextField name="country" label="quote.field.country" value={start?.country ?? home} most={2} />
          </div>
          <Choice
            name="kind"
            label="quote.field.kind"
            value={start?.kind ?? "unknown"}
            options={(["unknown", "business", "residential"] as const).map((kind) => ({
              value: kind,
              text: say(`kind.${kind}`),
            }))}
          />
        </fieldset>
        <fieldset>
          <Lines
            name="packages"
            label="quote.packages"
            note="quote.packages-note"
            value={start?.packages ?? ""}
            rows={6}
          />
          <Lines name="items" label="quote.items" note="quote.items-note" value={start?.items ?? ""} rows={4} />
        </fieldset>
        <fieldset>
          <TextField name="promisedOn" label="quote.field.promisedOn" type="date" value={start?.promisedOn ?? ""} />
          <TextField name="worth" label="quote.field.worth" mode="decimal" value={start?.worth ?? ""} />
          <TextField name="days" label="quote.field.days" mode="numeric" value="14" />
          <fieldset className="field quote-options">
            <legend>{say("quote.options")}</legend>
            {optionCodes.map((option) => (
              <label key={option} className="check">
                <input type="checkbox" name="option" value={option} defaultChecked={start?.options.includes(option)} />{" "}
                {wordFor("option", option)}
              </label>
            ))}
          </fieldset>
          <TextField name="note" label="quote.field.note" most={500} />
        </fieldset>
      </ActForm>
    </Screen>
  )
}
