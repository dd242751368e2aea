import { Button } from "@chakra-ui/react"
import type { IntakeId } from "core/ids/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { Link } from "react-router"
import { clock, shortDay } from "words/format.ts"
import { type MessageKey, say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import { useShell } from "../shell/useNow.ts"

export interface ShownStop {
  readonly reason: Reason
  /** Whether who is signed in may let it pass. */
  readonly mayPass: boolean
  /** Whether anybody may: then it is said who. */
  readonly waivable: boolean
  /** The order of the same purchase-order number, or the intake with the refused row. */
  readonly intakeId: IntakeId | null
}

/** Why an order is stopped, each reason with what ends it beside it. */
export function OrderStops({
  stops,
  orderNumber,
  solveBy,
  door,
  mayWork,
}: {
  orderNumber: string
  stops: readonly ShownStop[]
  solveBy: Date | null
  door: string | null
  mayWork: boolean
}) {
  const { zone } = useShell()
  return (
    <div className="order-stops">
      <h2 className="ember">{say("order.stops")}</h2>
      {solveBy ? (
        <p>
          {say("order.solve-by")} <b>{clock(solveBy, zone)}</b>{" "}
          {door ? (
            <>
              {say("order.solve-for")} <i className="plate-small in-text">{door}</i>
            </>
          ) : null}
        </p>
      ) : null}
      <ul>
        {stops.map((stop, index) => (
          <li key={index}>
            {sayReason(worded(stop.reason))} <Remedy stop={stop} orderNumber={orderNumber} mayWork={mayWork} />
          </li>
        ))}
      </ul>
    </div>
  )
}

/** Dates of a reason as the screen writes them. */
const worded = (one: Reason): Reason =>
  one.code === "stop.promise"
    ? {
        ...one,
        values: {
          ...one.values,
          promised: shortDay(one.values.promised ?? ""),
          earliest: shortDay(one.values.earliest ?? ""),
        },
      }
    : one

function Remedy({ stop, orderNumber, mayWork }: { stop: ShownStop; orderNumber: string; mayWork: boolean }) {
  const { code, values } = stop.reason
  if (code === "address.no-house-number" || code === "address.state-postal")
    return (
      <>
        <a href="#ship-to">{say("remedy.address")}</a>{" "}
        {!mayWork ? null : stop.mayPass ? (
          <Pass code={code} words={code === "address.state-postal" ? "remedy.address-right" : "remedy.no-number"} />
        ) : (
          <em>{say(code === "address.state-postal" ? "remedy.lead" : "remedy.lead-or-service")}</em>
        )}
      </>
    )
  if (code.startsWith("address.")) return <a href="#ship-to">{say("remedy.address")}</a>
  if (code.startsWith("customs.no-incoterm") || code === "customs.no-place")
    return <a href="#ship-to">{say("remedy.incoterm")}</a>
  if (code.startsWith("customs.") || code.startsWith("filing."))
    return <Link to={`/shipment/${orderNumber}?papers`}>{say("remedy.customs")}</Link>
  if (code === "stop.row-refused")
    return stop.intakeId ? <Link to={`/orders/intake/${stop.intakeId}`}>{say("remedy.row")}</Link> : null
  if (values.sku && (code.startsWith("dangerous.") || code.startsWith("customs.") || /weight|size/.test(code)))
    return (
      <Link to={`/set-up/items?find=${encodeURIComponent(values.sku)}`}>
        {say("order.to-item", { sku: values.sku })}
      </Link>
    )
  if (!mayWork) return null
  if (code === "stop.outside-refused")
    return (
      <Act intent="recall" className="in-line">
        <Button type="submit">{say("remedy.outside")}</Button>
      </Act>
    )
  if (code === "stop.purchase-order-twice")
    return (
      <>
        <Link to={`/orders/${values.order}`}>{say("remedy.see-order", { order: values.order ?? "" })}</Link>{" "}
        <Pass code={code} words="remedy.two-orders" />
      </>
    )
  if (code.startsWith("stop.quantity-")) return <Pass code={code} words="remedy.quantity" />
  if (code === "stop.promise")
    return (
      <>
        <Act intent="promise" sends={{ promised_on: values.earliest }} className="in-line">
          <Button type="submit">{say("remedy.promise", { day: shortDay(values.earliest ?? "") })}</Button>
        </Act>{" "}
        <Pass code={code} words="remedy.late" />
      </>
    )
  if (stop.waivable)
    return stop.mayPass ? (
      <Pass
        code={code}
        words={code === "stop.credit" ? "remedy.credit" : code === "stop.rule" ? "remedy.rule" : "remedy.screening"}
      />
    ) : (
      <em>{say("remedy.lead")}</em>
    )
  if (code === "stop.stock-short" && values.sku)
    return <Link to={`/set-up/items?find=${encodeURIComponent(values.sku)}`}>{say("remedy.stock")}</Link>
  return null
}

function Pass({ code, words }: { code: string; words: MessageKey }) {
  return (
    <Act intent="pass" sends={{ code }} className="in-line">
      <Button type="submit">{say(words)}</Button>
    </Act>
  )
}
