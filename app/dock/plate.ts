import { say } from "words/index.ts"
import type { Plate } from "../shell/Sill.tsx"
import type { OpenDoorData } from "./dockView.server.ts"

/** So many packages are named on the plate. */
const mostNamed = 4

/** What Enter does at a door. */
export function plateOf(one: OpenDoorData | null): Plate {
  if (!one) return { verb: say("plate.nothing"), detail: say("dock.no-doors"), ready: false }
  const names = (all: OpenDoorData["packages"]) =>
    all
      .slice(0, mostNamed)
      .map((pack) => pack.name)
      .join(", ") + (all.length > mostNamed ? " …" : "")
  if (one.closedAt)
    return {
      verb: say("dock.plate.closed", { door: one.door }),
      detail: say("dock.plate.closed-detail", { manifest: one.forms.map((form) => form.number).join(", ") }),
      ready: true,
      to: "/",
    }
  const verb = say("dock.plate.close", { door: one.door })
  const waits = (detail: string): Plate => ({ verb, detail, ready: false })
  const missing = one.packages.filter((pack) => pack.state === "labelled")
  if (missing.length > 0) return waits(say("dock.plate.waits", { names: names(missing) }))
  const loaded = one.packages.filter((pack) => pack.state === "on-truck")
  if (loaded.length === 0) return waits(say("dock.plate.empty-detail"))
  const stopped = loaded.filter((pack) => pack.stopped)
  if (stopped.length > 0) return waits(say("dock.plate.take-off", { names: names(stopped) }))
  if (one.missing.length > 0) return waits(say("dock.plate.early", { n: one.missing.length }))
  return {
    verb,
    detail: say("dock.plate.close-detail", { n: loaded.length, lb: one.loadedLb, wait: one.wait }),
    ready: true,
    send: { intent: "close", collection: String(one.id), expected: String(loaded.length), door: one.door },
  }
}
