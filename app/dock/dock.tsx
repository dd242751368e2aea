import { Button } from "@chakra-ui/react"
import { localDate } from "core/calendar/index.ts"
import { readings } from "core/scanning/index.ts"
import { massIn, sumMass } from "core/units/index.ts"
import { data, Link, redirect } from "react-router"
import {
  closeCollection,
  type DockPackage,
  dock,
  leaveBehind,
  load,
  type OrderToGo,
  ordersToGo,
  takeOff,
} from "server/dock/index.ts"
import { type Work, workContext } from "server/http/context.ts"
import { byCode } from "server/papers/byCode.ts"
import { isTestNumber } from "server/papers/label.ts"
import { clock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { masterBillPaper, printed } from "../parts/printed.server.ts"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate, Understood } from "../shell/Sill.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useNow, useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/dock"
import { Truck } from "./Truck.tsx"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  // a door of another day is shown where its manifest is scanned
  const collections = await dock(work, work.warehouse.zone, Number(params.collection) || null)
  const waiting = collections.flatMap(({ collection }) => (collection.closedAt ? [] : [collection.id]))
  const toGo = await ordersToGo(work.db, work.warehouse.id, waiting)
  const doors = collections.map(({ collection, packages }) => ({
    id: collection.id,
    door: collection.door,
    carrier: collection.carrier,
    cutOff: collection.cutOff,
    onDate: collection.onDate,
    closedAt: collection.closedAt,
    closedBy: collection.closedBy,
    manifest: collection.manifestNumber,
    manifestDocument: collection.manifestDocumentId,
    packages: packages.map(brief),
    orders: new Set(packages.map((one) => one.orderId)).size,
    lb: pounds(packages),
    toGo: toGo.get(collection.id) ?? [],
    /** Of its freight there is a master bill. */
    freight: packages.some((one) => one.freight),
  }))
  const asked = params.collection ? doors.find((one) => one.id === Number(params.collection)) : undefined
  if (params.collection && !asked) throw data(null, { status: 404 })
  const date = localDate(work.now, work.warehouse.zone)
  const today = doors.filter((one) => one.onDate === date)
  const open =
    asked ??
    today.find((one) => !one.closedAt && one.packages.length > 0) ??
    today.find((one) => !one.closedAt) ??
    today.at(-1) ??
    doors.at(-1) ??
    null
  // a door has its own address, so that it stays in view when it is closed
  if (!params.collection && open) throw redirect(`/dock/${open.id}`)
  return {
    doors,
    openId: open?.id ?? null,
    /** Orders that would miss the open door's truck if it were closed now. */
    missing: open && work.now < open.cutOff ? open.toGo : [],
    key: crypto.randomUUID(),
  }
}

const brief = (one: DockPackage) => ({
  id: one.id,
  name: one.name,
  state: one.state,
  receiver: one.receiver,
  place: one.place,
  service: one.service,
  sscc: one.sscc,
  tracking: one.tracking,
  lb: massIn(one.weight, "lb").toFixed(1),
  seenAt: one.seenAt,
  seenWhere: one.seenWhere,
  stopped: one.stopped,
})
const pounds = (packages: readonly DockPackage[]) => massIn(sumMass(packages.map((one) => one.weight)), "lb").toFixed(1)

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const collection = field.id
  const stay = (stays: boolean) =>
    act(z.object({ collection, package: field.many(field.id) }), (_, fields) =>
      always(leaveBehind(work, fields.collection, fields.package, stays)),
    )
  return answerTo(
    request,
    work,
    {
      close: act(
        z.object({ collection, expected: field.count, early: field.tick, missing: field.count, door: field.text(4) }),
        // only what was said beside its own button counts
        (_, { collection, expected, early, missing }) =>
          closeCollection(work, collection, expected, early ? missing : 0),
        ({ manifestNumber }, { door }) => say("dock.closed-now", { door, manifest: manifestNumber }),
      ),
      "master-bill": act(
        z.object({ collection }),
        (_, { collection }, { key }) => printed(work, masterBillPaper(work, collection), key),
        (name) => say("packing.printed", { name }),
      ),
      stay: stay(true),
      come: stay(false),
      "by-hand": act(
        z.object({ collection, name: field.text(20) }),
        (_, { collection, name }, { form }) => {
          const [orderNumber = "", number = ""] = name.split("-")
          const scanId = String(form.get("scanId") ?? "") || crypto.randomUUID()
          return load(work, collection, { orderNumber, number: Number(number) }, scanId)
        },
        ({ name }) => say("dock.loaded", { name }),
      ),
      "take-off": act(z.object({ collection, package: field.id }), (_, fields) =>
        always(takeOff(work, fields.collection, fields.package)),
      ),
    },
    { scanned: (text, form) => scanned(work, text.trim(), form) },
  )
}

/** A package that is scanned goes on the truck at the open door; anything else leads where it belongs. */
async function scanned(work: Work, text: string, form: FormData) {
  if (isTestNumber(text)) return refusal(say("dock.test-label"))
  const collection = Number(form.get("collection")) || 0
  const code = await packageCode(work, text)
  if (!code || !collection) return followScan(work, text)
  const outcome = await load(
    work,
    collection,
    code.kind === "sscc" ? { sscc: code.sscc } : { orderNumber: code.orderNumber, number: code.number },
    String(form.get("scanId") ?? "") || crypto.randomUUID(),
  )
  if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
  return done(say(outcome.value.again ? "dock.loaded-again" : "dock.loaded", { name: outcome.value.name }))
}

/** The package that a text names: by its SSCC, its name, or its tracking number. */
async function packageCode(work: Work, text: string) {
  const read = readings(text).find((reading) => reading.kind === "sscc" || reading.kind === "package")
  if (read) return read
  const found = await byCode(work.db, work.warehouse.id, text)
  return found?.kind === "package" ? found : null
}

export const meta: Route.MetaFunction = () => [{ title: `${say("dock.title")} · ${say("app.name")}` }]

type Door = Route.ComponentProps["loaderData"]["doors"][number]

export default function Dock({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const now = useNow()
  useLive(null)
  const open = loaderData.doors.find((one) => one.id === loaderData.openId)
  const index = open ? loaderData.doors.indexOf(open) : -1
  const doors = loaderData.doors.length > 5 ? "doors many" : "doors"
  const understand = (text: string): Understood | null => {
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
  return (
    <Screen
      ribbon={{ door: open?.door }}
      name="dock"
      sill={{
        plate: plateOf(open, loaderData.missing.length),
        understand,
        scanFields: { collection: String(open?.id ?? "") },
        answer: actionData?.answer,
        words: [
          [say("words.sscc"), say("words.sscc.does")],
          [say("words.door"), say("words.door.does")],
          [say("words.order"), say("words.order.does")],
        ],
      }}
    >
      <h1 className="sr-only">{say("dock.title")}</h1>
      {loaderData.doors.length === 0 ? <p className="nothing">{say("dock.no-doors")}</p> : null}
      <div className={doors}>
        {loaderData.doors.slice(0, Math.max(0, index)).map((one) => (
          <SideDoor key={one.id} one={one} zone={zone} />
        ))}
      </div>
      {open ? <OpenDoor one={open} missed={loaderData.missing} now={now} zone={zone} sendKey={loaderData.key} /> : null}
      <div className={doors}>
        {loaderData.doors.slice(index + 1).map((one) => (
          <SideDoor key={one.id} one={one} zone={zone} />
        ))}
      </div>
    </Screen>
  )
}

const of = (one: Door, ...states: string[]) => one.packages.filter((pack) => states.includes(pack.state))

function OpenDoor({
  one,
  missed,
  now,
  zone,
  sendKey,
}: {
  one: Door
  missed: readonly OrderToGo[]
  now: Date
  zone: string
  sendKey: string
}) {
  const left = Math.floor((one.cutOff.getTime() - now.getTime()) / 60_000)
  const missing = of(one, "labelled")
  const behind = of(one, "left-behind")
  const loaded = of(one, "on-truck", "gone")
  const soon = left < 15 && missing.length > 0 && !one.closedAt
  return (
    <section className="door-open" aria-label={say("dock.go", { door: one.door })}>
      <DoorHead one={one} left={left} hot={soon || left < 0} zone={zone} />
      <Truck packages={one.packages} closed={one.closedAt !== null} />
      {one.packages.length === 0 ? <p className="nothing">{say("dock.no-packages")}</p> : null}
      <DoorCounts one={one} hot={soon} />
      <ul className="door-missing">
        {[...missing, ...behind].map((pack) => (
          <li key={pack.id} className={pack.state === "left-behind" || pack.stopped ? "behind" : undefined}>
            <b>{pack.name}</b>
            <span>
              {pack.receiver}, {pack.place}
              <br />
              {pack.service}, {pack.lb} lb
            </span>
            <span>
              {pack.stopped ? <b className="ember">{say("dock.stopped")} </b> : null}
              {pack.seenAt && pack.seenWhere
                ? say(`dock.seen.${pack.seenWhere.place}`, {
                    time: clock(pack.seenAt, zone),
                    door: pack.seenWhere.door,
                  })
                : ""}
            </span>
            {one.closedAt || pack.state !== "labelled" || pack.stopped ? null : (
              <Act intent="by-hand" sends={{ collection: one.id, name: pack.name }}>
                <Button type="submit" aria-label={`${say("dock.by-hand")} ${pack.name}`}>
                  {say("dock.by-hand")}
                </Button>
              </Act>
            )}
            {one.closedAt ? null : (
              <Stay
                collection={one.id}
                packages={[pack.id]}
                intent={pack.state === "left-behind" ? "come" : "stay"}
                words={say(pack.state === "left-behind" ? "dock.come" : "dock.stay")}
                name={pack.name}
              />
            )}
          </li>
        ))}
      </ul>
      {one.closedAt === null && loaded.length > 0 ? (
        <details className="door-loaded" open={loaded.some((pack) => pack.stopped)}>
          <summary>
            {say("dock.loaded-list")} ({loaded.length})
          </summary>
          <ul>
            {loaded.map((pack) => (
              <li key={pack.id}>
                <b>{pack.name}</b> {pack.receiver}, {pack.place}, {pack.lb} lb{" "}
                {pack.stopped ? <b className="ember">{say("dock.stopped")}</b> : null}
                <Act intent="take-off" sends={{ collection: one.id, package: pack.id }}>
                  <Button type="submit" aria-label={`${say("dock.take-off")} ${pack.name}`}>
                    {say("dock.take-off")}
                  </Button>
                </Act>
              </li>
            ))}
          </ul>
        </details>
      ) : null}
      {one.closedAt === null && missed.length > 0 && loaded.length > 0 && missing.length === 0 ? (
        <CloseEarly one={one} toGo={missed} loaded={loaded.length} zone={zone} />
      ) : null}
      <footer>
        <div>
          <h2>{say("dock.manifest")}</h2>
          {one.manifestDocument ? (
            <p>
              <a href={`/papers/${one.manifestDocument}.pdf`} className="code">
                {one.manifest}
              </a>
            </p>
          ) : (
            <p>{say("dock.manifest-text", { n: loaded.length })}</p>
          )}
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
        </div>
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
      </footer>
    </section>
  )
}

/** Whose truck it is, until when, and how long that is from now. */
function DoorHead({ one, left, hot, zone }: { one: Door; left: number; hot: boolean; zone: string }) {
  const { today } = useShell()
  const stopped = one.toGo.filter((order) => order.stopped).length
  return (
    <header>
      <p className="door-plate">{one.door}</p>
      <div>
        <p className="door-carrier">{one.carrier}</p>
        <p>
          {say("dock.cut-off", { time: "" })}
          <b className="door-time">{clock(one.cutOff, zone)}</b>
          {one.onDate === today ? "" : ` ${shortDay(one.onDate)}`}
        </p>
        {one.closedAt ? (
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

const weight = (packages: readonly { readonly lb: string }[]) =>
  packages.reduce((sum, pack) => sum + Number(pack.lb), 0).toFixed(1)

/** How many packages are on the truck, at the door and left behind, with their weights. */
function DoorCounts({ one, hot }: { one: Door; hot: boolean }) {
  const missing = of(one, "labelled")
  const behind = of(one, "left-behind")
  const loaded = of(one, "on-truck", "gone")
  return (
    <ul className="door-counts">
      <li>
        <b>{loaded.length}</b>
        <span>
          {say("dock.on-truck")}
          <br />
          {weight(loaded)} lb
        </span>
      </li>
      <li className={hot ? "ember" : undefined}>
        <b>{missing.length}</b>
        <span>
          {say("dock.at-door")}
          <br />
          {weight(missing)} lb
        </span>
      </li>
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
function CloseEarly({
  one,
  toGo,
  loaded,
  zone,
}: {
  one: Door
  toGo: readonly OrderToGo[]
  loaded: number
  zone: string
}) {
  return (
    <ActForm
      intent="close"
      sends={{ collection: one.id, expected: loaded, missing: toGo.length, door: one.door }}
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

function Stay({
  collection,
  packages,
  intent,
  words,
  name,
}: {
  collection: number
  packages: readonly number[]
  intent: string
  words: string
  name: string
}) {
  return (
    <Act intent={intent} sends={{ collection }}>
      {packages.map((id) => (
        <input key={id} type="hidden" name="package" value={id} />
      ))}
      <Button type="submit" aria-label={`${words} ${name}`.trim()}>
        {words}
      </Button>
    </Act>
  )
}

function SideDoor({ one, zone }: { one: Door; zone: string }) {
  const { today } = useShell()
  const loaded = of(one, "on-truck", "gone").length
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
        {one.packages.slice(0, 120).map((pack) => (
          <i key={pack.id} className={pack.state} />
        ))}
      </span>
      <span className="door-of">
        <b>{loaded}</b> {say("dock.of", { n: "", of: one.packages.length }).trim()}
      </span>
      <span>{say("dock.orders", { n: one.orders, lb: one.lb })}</span>
      {one.manifest ? <span className="code">{one.manifest}</span> : null}
    </Link>
  )
}

function plateOf(one: Door | undefined, toGo: number): Plate {
  if (!one) return { verb: say("plate.nothing"), detail: say("dock.no-doors"), ready: false }
  if (one.closedAt)
    return {
      verb: say("dock.plate.closed", { door: one.door }),
      detail: say("dock.plate.closed-detail", { manifest: one.manifest ?? "" }),
      ready: true,
      to: "/",
    }
  const missing = of(one, "labelled")
  const loaded = of(one, "on-truck")
  const verb = say("dock.plate.close", { door: one.door })
  if (missing.length > 0)
    return {
      verb,
      detail: say("dock.plate.waits", {
        names:
          missing
            .slice(0, 4)
            .map((pack) => pack.name)
            .join(", ") + (missing.length > 4 ? " …" : ""),
      }),
      ready: false,
    }
  if (loaded.length === 0) return { verb, detail: say("dock.plate.empty-detail"), ready: false }
  const stopped = loaded.filter((pack) => pack.stopped)
  if (stopped.length > 0)
    return {
      verb,
      detail: say("dock.plate.take-off", { names: stopped.map((pack) => pack.name).join(", ") }),
      ready: false,
    }
  if (toGo > 0) return { verb, detail: say("dock.plate.early", { n: toGo }), ready: false }
  const lb = loaded.reduce((sum, pack) => sum + Number(pack.lb), 0).toFixed(1)
  return {
    verb,
    detail: say("dock.plate.close-detail", { n: loaded.length, lb }),
    ready: true,
    send: { intent: "close", collection: String(one.id), expected: String(loaded.length), door: one.door },
  }
}
