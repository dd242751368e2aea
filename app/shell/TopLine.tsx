import { Form, NavLink } from "react-router"
import { say } from "../messages/index.ts"
import { useShell } from "./useNow.ts"

const places = [
  { to: "/", name: "place.day", key: "F2", end: true },
  { to: "/orders", name: "place.orders", key: null, end: false },
  { to: "/shipment", name: "place.shipment", key: "F3", end: false },
  { to: "/dock", name: "place.dock", key: "F4", end: false },
  { to: "/papers", name: "place.papers", key: "F6", end: false },
]

/** Where the function keys go from anywhere. */
export const placeKeys: Readonly<Record<string, string>> = Object.fromEntries(
  places.filter((place) => place.key).map((place) => [place.key, place.to]),
)

/** Name, warehouses, places, and the day's counts. */
export function TopLine() {
  const { warehouses, counts, hands, actor } = useShell()
  return (
    <header className="top">
      <span className="top-name">{say("app.name")}</span>
      <span className="top-warehouses">
        {warehouses.map((one) =>
          one.here ? (
            <span key={one.id} className="here">
              {one.name}
            </span>
          ) : (
            <span key={one.id} className="away" title={say("top.not-at-work", { name: one.name })}>
              {one.name}
            </span>
          ),
        )}
      </span>
      <nav className="top-places" aria-label={say("top.main")}>
        {places.map((place) => (
          <NavLink key={place.to} to={place.to} end={place.end}>
            {say(place.name)} {place.key ? <kbd>{place.key}</kbd> : null}
          </NavLink>
        ))}
      </nav>
      <ul className="top-counts" aria-label={say("top.counts")}>
        <Count figure={counts.today} name="count.today" />
        <Count figure={counts.gone} name="count.gone" />
        <Count figure={counts.labelled} name="count.labelled" />
        <Count figure={counts.toGo} name="count.to-go" />
        <Count figure={counts.stopped} name="count.stopped" hot={counts.stopped > 0} />
        <Count figure={hands} name={hands === 1 ? "count.hand" : "count.hands"} />
      </ul>
      <Form method="post" action="/sign-out" className="top-out">
        <button type="submit" title={`${actor.name}, ${say(`role.${actor.role}`)}`}>
          {say("top.sign-out")}
        </button>
      </Form>
    </header>
  )
}

function Count({ figure, name, hot = false }: { figure: number; name: string; hot?: boolean }) {
  return (
    <li className={hot ? "hot" : undefined}>
      <b>{figure}</b> {say(name)}
    </li>
  )
}
