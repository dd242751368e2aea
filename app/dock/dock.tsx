import { readings } from "core/scanning/index.ts"
import { Link } from "react-router"
import { workContext } from "server/http/context.ts"
import { say } from "words/index.ts"
import { Act } from "../parts/ActForm.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Understood } from "../shell/Sill.tsx"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useNow } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/dock"
import { DoorList, SideDoor } from "./Doors.tsx"
import { dockActs, dockScan } from "./dockActs.server.ts"
import { type DockData, dockView, type OpenDoorData } from "./dockView.server.ts"
import { OpenDoor } from "./OpenDoor.tsx"
import { plateOf } from "./plate.ts"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  // a door of another day is shown where its form is scanned
  return dockView(work, params.collection ? Number(params.collection) || 0 : null)
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(request, work, dockActs, { scanned: (text, form) => dockScan(work, text.trim(), form) })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("dock.title")} · ${say("app.name")}` }]

/** More doors than stand beside one another are a list. */
const mostBeside = 12

export default function Dock({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const now = useNow()
  useLive(null)
  const { doors, open, lead, finished, key } = loaderData
  const at = doors.findIndex((one) => one.id === open?.id)
  const complete = doors.filter((one) => one.complete)
  const beside = doors.length <= mostBeside
  const className = doors.length > 5 ? "doors many" : "doors"
  const closeAll = () => document.querySelector<HTMLFormElement>("#close-all-form")?.requestSubmit()
  return (
    <Screen
      ribbon={{ door: open?.door }}
      name="dock"
      sill={{
        plate: plateOf(open),
        understand: (text) => understand(open, text),
        scanFields: { collection: String(open?.id ?? "") },
        answer: actionData?.answer,
        keys: { NumpadMultiply: closeAll },
        words: [
          [say("words.sscc"), say("words.sscc.does")],
          [say("words.door"), say("words.door.does")],
          [say("words.order"), say("words.order.does")],
          ["*", say("words.close-all.does")],
        ],
      }}
    >
      <h1 className="sr-only">{say("dock.title")}</h1>
      {doors.length === 0 ? <p className="nothing">{say("dock.no-doors")}</p> : null}
      {beside ? (
        <div className={className}>
          {doors.slice(0, Math.max(0, at)).map((one) => (
            <SideDoor key={one.id} one={one} />
          ))}
        </div>
      ) : (
        <DoorList doors={doors} open={open?.id ?? null} />
      )}
      {open ? (
        <OpenDoor one={open} now={now} sendKey={key} lead={lead}>
          <DockFoot complete={complete} finished={finished} />
        </OpenDoor>
      ) : (
        <DockFoot complete={complete} finished={finished} />
      )}
      {beside ? (
        <div className={className}>
          {doors.slice(at + 1).map((one) => (
            <SideDoor key={one.id} one={one} />
          ))}
        </div>
      ) : null}
    </Screen>
  )
}

/** What concerns all doors: closing those that are complete, and where the finished ones are. */
function DockFoot({ complete, finished }: { complete: DockData["doors"]; finished: number }) {
  return (
    <nav className="dock-foot" aria-label={say("dock.all-doors")}>
      {complete.length > 0 ? (
        <Act
          intent="close-all"
          id="close-all-form"
          sends={{ collection: complete.map((one) => one.id), expected: complete.map((one) => one.onTruck) }}
        >
          <button type="submit" className="as-link">
            {say("dock.close-all", { n: complete.length, doors: complete.map((one) => one.door).join(", ") })}{" "}
            <kbd>*</kbd>
          </button>
        </Act>
      ) : null}
      <Link to="/dock/staging">{say("staging.open")}</Link>
      <Link to="/dock/book">{say("collect.open")}</Link>
      <Link to="/dock/rounds">{say("round.open")}</Link>
      <Link to="/dock/messages">{say("edi.open")}</Link>
      <Link to="/dock/forms">{say("dock.all-forms", { n: finished })}</Link>
    </nav>
  )
}

/** The package of the open door that a text names. */
function understand(open: OpenDoorData | null, text: string): Understood | null {
  const code = readings(text).find((reading) => reading.kind === "sscc" || reading.kind === "package")
  const found = open?.packages.find((one) =>
    code?.kind === "sscc"
      ? one.sscc === code.sscc
      : code?.kind === "package"
        ? one.name === `${code.orderNumber}-${code.number}`
        : one.tracking === text.trim(),
  )
  return found ? { fits: true, words: `${found.name}, ${found.receiver}, ${found.place}, ${found.lb} lb` } : null
}
