import { Link } from "react-router"
import { clock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { useShell } from "../shell/useNow.ts"
import type { DoorData } from "./dockView.server.ts"

/** So many packages are drawn at a door. */
const mostDrawn = 120

const totalOf = (one: DoorData) => one.labelled + one.onTruck + one.behind + one.gone
const loadedOf = (one: DoorData) => one.onTruck + one.gone

/** A door beside the open one, with its packages by what became of them. */
export function SideDoor({ one }: { one: DoorData }) {
  const { today, zone } = useShell()
  const boxes = (["on-truck", "gone", "labelled", "left-behind"] as const).flatMap((state) =>
    Array.from(
      { length: { "on-truck": one.onTruck, gone: one.gone, labelled: one.labelled, "left-behind": one.behind }[state] },
      () => state,
    ),
  )
  return (
    <Link to={`/dock/${one.id}`} className={one.closedAt ? "door closed" : "door"}>
      <span className="shutter">
        <b>{one.door}</b>
      </span>
      <span className="door-carrier">{one.carrier}</span>
      <span className="door-time">
        {one.closedAt ? say("dock.left", { time: clock(one.closedAt, zone) }) : clock(one.cutOff, zone)}
      </span>
      <span>
        {one.onDate === today ? "" : `${shortDay(one.onDate)}, `}
        {say("dock.cut-off", { time: clock(one.cutOff, zone) })}
      </span>
      <span className="door-boxes" aria-hidden="true">
        {boxes.slice(0, mostDrawn).map((state, at) => (
          <i key={`${state} ${at}`} className={state} />
        ))}
      </span>
      <span className="door-of">
        <b>{loadedOf(one)}</b> {say("dock.of", { n: "", of: totalOf(one) }).trim()}
      </span>
      <span>{say("dock.orders", { n: one.orders, lb: one.lb })}</span>
      {one.closedAt && !one.final ? <span>{say("dock.can-reopen")}</span> : null}
    </Link>
  )
}

/** Many doors as a list, a line each. */
export function DoorList({ doors, open }: { doors: readonly DoorData[]; open: number | null }) {
  const { today, zone } = useShell()
  return (
    <ul className="door-list">
      {doors.map((one) => (
        <li key={one.id}>
          <Link to={`/dock/${one.id}`} aria-current={one.id === open ? "page" : undefined}>
            <b>{one.door}</b>
            <span>
              {one.carrier}
              <br />
              {one.onDate === today ? "" : `${shortDay(one.onDate)}, `}
              {one.closedAt ? say("dock.left", { time: clock(one.closedAt, zone) }) : clock(one.cutOff, zone)}
            </span>
            <span>
              {loadedOf(one)}/{totalOf(one)}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  )
}
