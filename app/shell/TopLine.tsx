import { UserRound } from "lucide-react"
import { Form, Link, NavLink, useLocation } from "react-router"
import { type MessageKey, say } from "words/index.ts"
import { useShell } from "./useNow.ts"

const places: readonly { to: string; name: MessageKey; key: string | null; end: boolean; floorOnly: boolean }[] = [
  { to: "/", name: "place.day", key: "F2", end: true, floorOnly: false },
  { to: "/orders", name: "place.orders", key: null, end: false, floorOnly: false },
  { to: "/pick", name: "place.pick", key: null, end: false, floorOnly: true },
  { to: "/shipment", name: "place.shipment", key: "F3", end: false, floorOnly: true },
  { to: "/dock", name: "place.dock", key: "F4", end: false, floorOnly: true },
  { to: "/papers", name: "place.papers", key: "F6", end: false, floorOnly: true },
  { to: "/set-up", name: "place.setup", key: null, end: false, floorOnly: false },
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
            <Form key={one.id} method="post" action="/warehouse">
              <input type="hidden" name="warehouse" value={one.id} />
              <button type="submit" className="away" title={say("top.switch", { name: one.name })}>
                {one.name}
              </button>
            </Form>
          ),
        )}
      </span>
      <nav className="top-places" aria-label={say("top.main")}>
        {places
          .filter((place) => actor.seesFloor || !place.floorOnly)
          .map((place) => (
            <NavLink key={place.to} to={place.to} end={place.end}>
              {say(place.name)} {place.key ? <kbd>{place.key}</kbd> : null}
            </NavLink>
          ))}
      </nav>
      <RunsTold />
      <ul className="top-counts" aria-label={say("top.counts")}>
        <Count figure={counts.today} words={say("counts.today")} />
        <Count figure={counts.gone} words={say("counts.gone")} />
        <Count figure={counts.labelled} words={say("counts.labelled")} />
        <Count figure={counts.toGo} words={say("counts.to-go")} />
        <Count figure={counts.stopped} words={say("counts.stopped")} hot={counts.stopped > 0} />
        <Count figure={hands} words={say("counts.hands", { n: hands })} />
      </ul>
      <Form method="post" action="/sign-out" className="top-out">
        <Link to="/account" aria-label={say("account.of", { name: actor.name })} title={actor.name}>
          <UserRound size={18} aria-hidden />
        </Link>
        <button type="submit" title={`${actor.name}, ${say(`role.${actor.role}`)}`}>
          {say("top.sign-out")}
        </button>
      </Form>
    </header>
  )
}

function Count({ figure, words, hot = false }: { figure: number; words: string; hot?: boolean }) {
  return (
    <li className={hot ? "hot" : undefined}>
      <b>{figure}</b> {words}
    </li>
  )
}

/** Shipping runs that are being bought, and those that are done and nobody has looked at since. */
function RunsTold() {
  const { runs } = useShell()
  const { pathname } = useLocation()
  return runs
    .filter((run) => pathname !== `/orders/runs/${run.id}`)
    .slice(0, 1)
    .map((run) => (
      <span key={run.id} className={run.failed > 0 ? "top-run hot" : "top-run"} role="status">
        <Link to={`/orders/runs/${run.id}`}>
          {say(
            run.ended
              ? run.failed > 0
                ? "shipping-run.told-failed"
                : "shipping-run.told-done"
              : run.state === "paused"
                ? "shipping-run.told-paused"
                : "shipping-run.told-buying",
            run,
          )}
        </Link>
        {run.ended ? (
          <Form method="post" action={`/orders/runs/${run.id}`} navigate={false}>
            <input type="hidden" name="intent" value="seen" />
            <button type="submit" aria-label={say("shipping-run.told-seen")}>
              ×
            </button>
          </Form>
        ) : null}
      </span>
    ))
}
