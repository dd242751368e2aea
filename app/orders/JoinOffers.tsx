import { Button } from "@chakra-ui/react"
import { type MoneyText, showMoney } from "core/money/index.ts"
import { Link } from "react-router"
import { clock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { useShell } from "../shell/useNow.ts"

interface Departing {
  readonly door: string
  readonly onDate: string
  readonly cutOff: Date
}

/** Orders of one ship-to that would cost less as one shipment. */
export interface JoinOfferShown {
  readonly orders: readonly { readonly id: number; readonly orderNumber: string; readonly customer: string }[]
  readonly place: string
  readonly apart: MoneyText
  readonly together: MoneyText
  readonly saving: MoneyText
  readonly from: Departing | null
  readonly to: Departing | null
  readonly later: boolean
}

/** When it leaves: the door with its time, and the day where it is not today. */
export function Leaves({ at }: { at: Departing | null }) {
  const { zone, today } = useShell()
  if (!at) return <>–</>
  return (
    <>
      {clock(at.cutOff, zone)} <i className="plate-small in-text">{at.door}</i>
      {at.onDate === today ? "" : ` ${shortDay(at.onDate)}`}
    </>
  )
}

/** What an order is one shipment with, or could be; on its own page. */
export function Joining({
  joined,
  offer,
  mayChange,
}: {
  joined: readonly { readonly orderNumber: string; readonly leads: boolean }[]
  offer: JoinOfferShown | null
  mayChange: boolean
}) {
  if (joined.length === 0 && !offer) return null
  return (
    <div className="joining">
      {joined.length > 0 ? (
        <>
          <h2>{say("combine.shipment-title")}</h2>
          <p>
            {say("combine.with")}{" "}
            {joined.map((one) => (
              <Link key={one.orderNumber} to={`/orders/${one.orderNumber}`}>
                {one.orderNumber}
              </Link>
            ))}{" "}
            {joined.some((one) => one.leads)
              ? say("combine.leads", { lead: joined.find((one) => one.leads)?.orderNumber ?? "" })
              : say("combine.leads-this")}
          </p>
          {mayChange ? (
            <Act intent="part">
              <Button type="submit">{say("combine.part")}</Button>
            </Act>
          ) : null}
        </>
      ) : null}
      {offer ? (
        <>
          <h2>{say("combine.same-place")}</h2>
          <p>
            {offer.orders.map((one) => (
              <Link key={one.orderNumber} to={`/orders/${one.orderNumber}`}>
                {one.orderNumber}
              </Link>
            ))}{" "}
            {say("combine.saves", { apart: showMoney(offer.apart), together: showMoney(offer.together) })}{" "}
            <b>{showMoney(offer.saving)}</b> {say("combine.leaves")} <Leaves at={offer.to} />
            {offer.later ? ` ${say("combine.later")}` : ""}
          </p>
          {mayChange ? (
            <Act intent="join">
              {offer.orders.map((one) => (
                <input key={one.id} type="hidden" name="order" value={one.id} />
              ))}
              <Button type="submit">{say("combine.do", { n: offer.orders.length })}</Button>
            </Act>
          ) : null}
        </>
      ) : null}
    </div>
  )
}
