import { Button } from "@chakra-ui/react"
import type { LocalDate } from "core/calendar/index.ts"
import { type MoneyText, showMoney } from "core/money/index.ts"
import { isWorkedHere } from "core/orders/index.ts"
import { Link } from "react-router"
import { duration } from "words/duration.ts"
import { clock, purchaseOrder, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { Act } from "../parts/ActForm.tsx"
import { MarksShown } from "../parts/Marks.tsx"
import { People } from "../shell/People.tsx"
import { useNow, useShell } from "../shell/useNow.ts"
import { ShipDate } from "./ShipDate.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** The truck that a shipment leaves with, as far as one is known. */
export interface Leaves {
  readonly door: string
  readonly onDate: LocalDate
  readonly cutOff: Date
  readonly closed: boolean
}

/** Whose shipment it is, where it goes, when it leaves, what it is part of, and what stops it. */
export function ShipmentHead({
  view,
  leaves,
  people,
  now: costs,
}: {
  view: ShipmentView
  leaves: Leaves | null
  people: readonly string[]
  /** What it costs by the chosen service. */
  now: MoneyText | null
}) {
  const { zone, today } = useShell()
  const now = useNow()
  return (
    <>
      <div className="order-name">
        <h1>{view.orderNumber}</h1>
        <p>
          <b>{view.customer}</b>
          <br />
          {view.shipTo.length > 0
            ? view.shipTo.map((one) => (
                <span key={one}>
                  {one}
                  <br />
                </span>
              ))
            : view.place}
          {view.poNumber ? say("order.their", { po: purchaseOrder(view.poNumber) }) : ""}
        </p>
      </div>
      <p className="order-promise">
        {view.promisedOn ? say("ship.promised") : say("order.no-promise")}{" "}
        <b>{view.promisedOn ? shortDay(view.promisedOn) : ""}</b>
        <span>{isWorkedHere(view.stage) ? leavesInWords(leaves, now, today, zone) : say(`stage.${view.stage}`)}</span>
      </p>
      <ShipDate view={view} onDate={leaves?.onDate ?? null} />
      <People names={people} />
      {view.members.length > 1 ? (
        <p className="joined">
          {say("combine.shipment", { n: view.members.length })}{" "}
          {view.members.map((one) => (
            <Link key={one.orderNumber} to={`/orders/${one.orderNumber}`}>
              {one.orderNumber}
            </Link>
          ))}
          {view.joinedFor ? <JoinedFor for_={view.joinedFor} now={costs} /> : null}
        </p>
      ) : null}
      {view.parts.length > 1 ? <Parts view={view} /> : null}
      {view.abroad && view.terms.incoterm ? <p className="terms">{say("ship.terms", { ...view.terms })}</p> : null}
      <MarksShown marks={view.marks} notes={view.notes} />
      {view.stopped.length > 0 ? <p className="ember">{sayReasons(view.stopped)}</p> : null}
    </>
  )
}

/** The truck that it leaves with: by the hours left today, by day and time later on. */
function leavesInWords(leaves: Leaves | null, now: Date, today: string, zone: string): string {
  if (!leaves) return say("ship.no-door")
  if (leaves.closed) return say("stage.gone")
  if (leaves.onDate !== today)
    return say("ship.door-on", { door: leaves.door, day: shortDay(leaves.onDate), time: clock(leaves.cutOff, zone) })
  const until = Math.max(0, Math.floor((leaves.cutOff.getTime() - now.getTime()) / 60_000))
  return say("ship.door-in", { door: leaves.door, time: duration(until) })
}

/** What the orders were joined for, and what has become of it: said aloud where they would cost less apart. */
function JoinedFor({
  for_: { apart, together },
  now,
}: {
  for_: { readonly apart: MoneyText; readonly together: MoneyText }
  now: MoneyText | null
}) {
  const words = say("combine.for", { together: showMoney(together), apart: showMoney(apart) })
  if (!now) return <small>{words}</small>
  const dearer = Number(now.amount) > Number(apart.amount)
  return (
    <small className={dearer ? "ember" : undefined}>
      {words}, {say(dearer ? "combine.now-dearer" : "combine.now-costs", { now: showMoney(now) })}
    </small>
  )
}

/** The parts that an order was shipped in, and the way back to one as long as no label was bought. */
function Parts({ view }: { view: ShipmentView }) {
  return (
    <div className="joined">
      {say("split.parts", { n: view.parts.length })}{" "}
      {view.parts.map((one) =>
        one.orderNumber === view.orderNumber || one.warehouse ? (
          <b key={one.orderNumber}>
            {one.orderNumber} {one.warehouse}
          </b>
        ) : (
          <Link key={one.orderNumber} to={`/shipment/${one.orderNumber}`}>
            {one.orderNumber}
          </Link>
        ),
      )}{" "}
      {view.state === "open" ? (
        <Act intent="whole" className="in-line">
          <Button type="submit">{say("split.make-whole")}</Button>
        </Act>
      ) : null}
    </div>
  )
}
