import { Button } from "@chakra-ui/react"
import type { ReactNode } from "react"
import { Link } from "react-router"
import { clock, clockTime, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { useShell } from "../shell/useNow.ts"
import { BookingState } from "./BookingState.tsx"
import { DoorForms } from "./DoorForms.tsx"
import { LoadedList, MissingList, Stay } from "./DoorLists.tsx"
import { DriverForm } from "./DriverForm.tsx"
import { DropOffPlace } from "./DropOffPlace.tsx"
import type { OpenDoorData } from "./dockView.server.ts"
import { Truck } from "./Truck.tsx"

/** The door in hand: what is on its truck, what is missing, its forms, and what can be done. */
export function OpenDoor({
  one,
  now,
  sendKey,
  lead,
  children,
}: {
  one: OpenDoorData
  now: Date
  sendKey: string
  lead: boolean
  children: ReactNode
}) {
  const left = Math.floor((one.cutOff.getTime() - now.getTime()) / 60_000)
  const soon = left < 15 && one.labelled > 0 && !one.closedAt
  const missing = one.packages.filter((pack) => pack.state === "labelled")
  return (
    <section className="door-open" aria-label={say("dock.go", { door: one.door })}>
      <DoorHead one={one} left={left} hot={soon || left < 0} />
      <DropOffPlace one={one} />
      <Truck packages={one.packages} closed={one.closedAt !== null} />
      {one.packages.length === 0 ? <p className="nothing">{say("dock.no-packages")}</p> : null}
      <DoorCounts one={one} hot={soon} />
      <MissingList one={one} />
      <LoadedList one={one} />
      {one.closedAt === null && one.missing.length > 0 && one.onTruck > 0 && missing.length === 0 ? (
        <CloseEarly one={one} />
      ) : null}
      <DriverForm one={one} />
      <DoorForms one={one} sendKey={sendKey} lead={lead} />
      <footer>
        {one.ownVehicle ? <Link to={`/dock/rounds/${one.id}`}>{say("round.on-door")}</Link> : null}
        {one.freight ? (
          <div className="master-bill">
            <a href={`/dock/${one.id}/master-bill.pdf`}>{say("papers.kind.master-bill")}</a>{" "}
            <Act intent="master-bill" sends={{ collection: one.id, key: sendKey }} className="in-line">
              <Button type="submit" variant="ghost" aria-label={say("dock.print-master-bill")}>
                {say("packing.print")}
              </Button>
            </Act>
          </div>
        ) : null}
        {one.toGo.length > 0 && !one.closedAt ? (
          <Act intent="from" action="/orders/runs" sends={{ collection: one.id, key: sendKey }}>
            <Button type="submit">{say("dock.ship", { n: one.toGo.length })}</Button>
          </Act>
        ) : null}
        {missing.length > 1 && !one.closedAt ? (
          <Stay
            collection={one.id}
            packages={missing.map((pack) => pack.id)}
            intent="stay"
            words={say("dock.stay-all", { n: missing.length })}
            name=""
          />
        ) : null}
        {children}
      </footer>
    </section>
  )
}

/** Whose truck it is, until when, and how long that is from now. */
function DoorHead({ one, left, hot }: { one: OpenDoorData; left: number; hot: boolean }) {
  const { today, zone } = useShell()
  const stopped = one.toGo.filter((order) => order.stopped).length
  return (
    <header>
      <p className={one.door.length > 2 || /\D/.test(one.door) ? "door-plate long" : "door-plate"}>{one.door}</p>
      <div>
        <p className="door-carrier">{one.carrier}</p>
        <p>
          {say("dock.cut-off", { time: "" })}
          <b className="door-time">{clock(one.cutOff, zone)}</b>
          {one.onDate === today ? "" : ` ${shortDay(one.onDate)}`}
          {one.usual ? ` ${say("driver.usual", { time: clockTime(one.usual) })}` : ""}
        </p>
        {one.closedAt && one.cancelled ? (
          <p>{say("dock.cancelled-at", { time: clock(one.closedAt, zone) })}</p>
        ) : one.closedAt ? (
          <p>
            {say("dock.left", { time: clock(one.closedAt, zone) })},{" "}
            {say("dock.closed-by", { name: one.closedBy ?? "" })}
          </p>
        ) : one.toGo.length > 0 ? (
          <p>
            {say("dock.still-working", { n: one.toGo.length })}
            {stopped > 0 ? say("dock.still-stopped", { n: stopped }) : ""}
          </p>
        ) : null}
        <DoorBooking one={one} />
      </div>
      {one.closedAt ? null : (
        <p className={hot ? "door-left ember" : "door-left"}>
          <b>{left < 0 ? "–" : left < 100 ? left : `${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")}`}</b>
          <span>{left < 0 ? say("dock.past") : left < 100 ? say("dock.minutes-left") : say("dock.hours-left")}</span>
        </p>
      )}
    </header>
  )
}

/** The collection that is booked for the door, or that it is not and has to be. */
function DoorBooking({ one }: { one: OpenDoorData }) {
  const { booking } = one
  const to = booking?.state === "booked" ? `/dock/book?booking=${booking.id}` : `/dock/book?collection=${one.id}`
  if (booking)
    return (
      <p className="door-booking">
        <Link to={to}>
          {booking.number
            ? say("collect.on-door", {
                number: booking.number,
                ready: clockTime(booking.ready),
                latest: clockTime(booking.latest),
              })
            : say("collect.open")}
        </Link>{" "}
        {booking.state === "booked" && !booking.trouble ? null : <BookingState one={booking} />}
      </p>
    )
  return one.onCall && !one.closedAt ? (
    <p className="door-booking ember">
      {say("collect.on-call")} <Link to={to}>{say("collect.open")}</Link>
    </p>
  ) : null
}

const weight = (packages: readonly { readonly lb: string }[]) =>
  packages.reduce((sum, pack) => sum + Number(pack.lb), 0).toFixed(1)

/** How many packages are on the truck, at the door and left behind, with their weights. */
function DoorCounts({ one, hot }: { one: OpenDoorData; hot: boolean }) {
  const of = (...states: string[]) => one.packages.filter((pack) => states.includes(pack.state))
  const missing = of("labelled")
  const behind = of("left-behind")
  const loaded = of("on-truck", "gone")
  return (
    <ul className="door-counts">
      <li>
        <b>{loaded.length}</b>
        <span>
          {say(one.closedAt ? "dock.gone" : "dock.on-truck")}
          <br />
          {weight(loaded)} lb
        </span>
      </li>
      {one.closedAt ? null : (
        <li className={hot ? "ember" : undefined}>
          <b>{missing.length}</b>
          <span>
            {say("dock.at-door")}
            <br />
            {weight(missing)} lb
          </span>
        </li>
      )}
      {behind.length > 0 ? (
        <li className="ember">
          <b>{behind.length}</b>
          <span>{say("dock.left-behind")}</span>
        </li>
      ) : null}
      <li className="light">
        <b>{one.packages.length}</b>
        <span>
          {say("dock.packages")}
          <br />
          {one.lb} lb
        </span>
      </li>
    </ul>
  )
}

/** Closing before its time while orders are to go: they are named, and it is an act of its own, never Enter's. */
function CloseEarly({ one }: { one: OpenDoorData }) {
  const { zone } = useShell()
  const toGo = one.missing
  return (
    <ActForm
      intent="close"
      sends={{ collection: one.id, expected: one.onTruck, missing: toGo.length, door: one.door }}
      className="door-early"
    >
      <h2>
        {say("dock.early-title", {
          n: toGo.length,
          time: clock(one.cutOff, zone),
        })}
      </h2>
      <p>
        {toGo.map((order) => (
          <Link
            key={order.orderNumber}
            to={`/orders/${order.orderNumber}`}
            title={order.customer}
            className={order.stopped ? "ember" : undefined}
          >
            {order.orderNumber}
          </Link>
        ))}
      </p>

      <label className="check">
        <input type="checkbox" name="early" value="yes" required /> {say("dock.early-know", { n: toGo.length })}
      </label>
      <Button type="submit">{say("dock.early-close", { door: one.door })}</Button>
    </ActForm>
  )
}
