import { Button } from "@chakra-ui/react"
import { countries } from "core/address/index.ts"
import { showMoney } from "core/money/index.ts"
import { useState } from "react"
import { Link, useNavigation } from "react-router"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { Act, ActForm } from "./ActForm.tsx"
import { Check, Choice, TextField } from "./Fields.tsx"
import type { ReturnPrices, ReturnsView } from "./returns.server.ts"

/** The labels by which goods of an order come back, and how another is had. */
export function ReturnLabels({
  view,
  prices,
  today,
}: {
  view: ReturnsView | null
  prices: ReturnPrices | null
  today: string
}) {
  if (!view) return null
  return (
    <section className="return-labels" aria-label={say("return.title")}>
      <h2>{say("return.title")}</h2>
      {view.list.length > 0 ? (
        <ul>
          {view.list.map((one) => (
            <li key={one.id}>
              <b>R{one.number}</b> {one.service}, {showMoney(one.price)} ({say(`return.due.${one.paid}`)}),{" "}
              <span className={one.trouble ? "ember" : undefined}>{say(stateOf(one, today))}</span>
              {one.state === "booked" ? `, ${say("return.until", { day: shortDay(one.validUntil) })}` : ""}{" "}
              {one.tracking ? <span className="code">{one.tracking}</span> : null}
              {one.mailTo ? ` ${one.mailTo}` : ""}
              {one.trouble ? <span className="ember"> {sayReason(one.trouble)}</span> : null}
              {one.state === "booked" && !one.scanned && view.from ? (
                <Act intent="return-void" sends={{ back: one.id, number: one.number }}>
                  <Button type="submit" variant="ghost" aria-label={say("return.void-label", { n: one.number })}>
                    {say("return.void")}
                  </Button>
                </Act>
              ) : null}
            </li>
          ))}
        </ul>
      ) : null}
      {view.came.length > 0 ? (
        <p>
          {say("goods-back.of-order-title")}:{" "}
          {view.came.map((one, index) => (
            <span key={one.name}>
              {index > 0 ? ", " : ""}
              <Link to={`/orders/returns/${one.name}`}>{one.name}</Link> {say(`goods-back.is.${one.state}`)}
            </span>
          ))}
        </p>
      ) : null}
      {view.from ? <NewReturn from={view.from} prices={prices} /> : null}
    </section>
  )
}

const stateOf = (one: ReturnsView["list"][number], today: string) =>
  one.state !== "booked"
    ? (`return.is.${one.state}` as const)
    : one.scanned
      ? "return.is.scanned"
      : one.validUntil < today
        ? "return.is.expired"
        : "return.is.booked"

function NewReturn({ from, prices }: { from: NonNullable<ReturnsView["from"]>; prices: ReturnPrices | null }) {
  const busy = useNavigation().state !== "idle"
  const [what, setWhat] = useState("whole")
  const [to, setTo] = useState("warehouse")
  return (
    <details className="return-new" open={prices !== null}>
      <summary>{say("return.new")}</summary>
      <ActForm intent="return-price" id="return-form">
        <Choice
          name="what"
          id="return-what"
          label="return.what"
          value={what}
          onChange={setWhat}
          options={(["whole", "packages", "lines"] as const).map((value) => ({ value, text: say(`return.${value}`) }))}
        />
        {what === "packages" ? (
          <div className="return-goods">
            {from.packages.map((one) => (
              <label key={one.number} className="check">
                <input type="checkbox" name="back" value={one.number} /> {say("return.package", { name: one.name })}
              </label>
            ))}
          </div>
        ) : null}
        {what === "lines" ? (
          <div className="return-goods">
            {from.lines.map((one) => (
              <TextField
                key={one.id}
                name={`back-${one.id}`}
                label={{ words: say("return.pieces-of", { sku: one.sku, n: one.sent }) }}
                mode="numeric"
                most={7}
              />
            ))}
          </div>
        ) : null}
        <Choice
          name="to"
          id="return-to"
          label="return.to"
          value={to}
          onChange={setTo}
          options={(["warehouse", ...(from.returnTo ? ["return-to" as const] : []), "other"] as const).map((value) => ({
            value,
            text: say(`return.to.${value}`),
          }))}
        />
        {to === "other" ? <OtherPlace /> : null}
        <Check name="prints" label="return.prints" on />
        <TextField name="mailTo" id="return-mail" label="return.mail-to" type="email" most={120} />
        <Button type="submit" disabled={busy}>
          {say("return.price")}
        </Button>
      </ActForm>
      {prices ? <Prices prices={prices} orderKey={from.key} busy={busy} /> : null}
    </details>
  )
}

function OtherPlace() {
  return (
    <div className="return-goods">
      {(["company", "street", "city", "state", "postal_code"] as const).map((name) => (
        <TextField key={name} name={name} id={`return-${name}`} label={`order.${name}`} most={60} />
      ))}
      <Choice
        name="country"
        id="return-country"
        label="order.country"
        value="US"
        options={countries.map((code) => ({ value: code, text: code }))}
      />
    </div>
  )
}

function Prices({ prices, orderKey, busy }: { prices: ReturnPrices; orderKey: string; busy: boolean }) {
  return (
    <ul className="return-prices">
      {prices.offers.map((one) => (
        <li key={one.code}>
          <b>{one.name}</b>{" "}
          {one.price ? (
            <>
              {say("return.brings", { n: prices.packages })}, {say(`return.due.${one.paid}`)},{" "}
              {say("return.valid", { n: one.days })}
              <Act
                intent="return-buy"
                sends={{
                  asked: prices.asked,
                  service: one.code,
                  amount: one.price.amount,
                  currency: one.price.currency,
                  key: `${orderKey} ${one.code}`,
                }}
              >
                <Button type="submit" disabled={busy} className={one.preselected ? "strong" : undefined}>
                  {say("return.buy", { price: showMoney(one.price) })}
                </Button>
              </Act>
            </>
          ) : (
            <span className="ember">{say("return.cannot", { why: sayReasons(one.why) })}</span>
          )}
        </li>
      ))}
    </ul>
  )
}
