import { Button } from "@chakra-ui/react"
import { type Place, placeNamed } from "core/handover/index.ts"
import { readings } from "core/scanning/index.ts"
import { massIn } from "core/units/index.ts"
import { Form, Link, useNavigate } from "react-router"
import { inBuilding, mostStaged, placesInUse, putAt } from "server/dock/staging.ts"
import { type Work, workContext } from "server/http/context.ts"
import { byCode } from "server/papers/byCode.ts"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { TextField } from "../parts/Fields.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, followScan, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/staging"

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const asked = new URL(request.url).searchParams
  const text = (asked.get("find") ?? "").slice(0, 60)
  const place = placeNamed(asked.get("at") ?? "")
  const [{ packages, more }, places] = await Promise.all([
    inBuilding(work, { text, place: text ? null : place }),
    placesInUse(work.db, work.warehouse.id),
  ])
  return {
    text,
    place,
    places,
    more: more ? mostStaged : 0,
    packages: packages.map((one) => ({ ...one, weight: one.weight ? massIn(one.weight, "lb").toFixed(1) : "" })),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(request, work, {}, { scanned: (text, form) => scanned(work, text.trim(), form) })
}

/** A package goes to the place that was scanned before it; anything else leads where it belongs. */
async function scanned(work: Work, text: string, form: FormData) {
  allow(work, "dock.work")
  const place = placeNamed(String(form.get("at") ?? "").slice(0, 12))
  const read = readings(text).find((one) => one.kind === "sscc" || one.kind === "package")
  const found = read ?? (await byCode(work.db, work.warehouse.id, text))
  if (!place || (found?.kind !== "sscc" && found?.kind !== "package")) return followScan(work, text)
  const outcome = await putAt(
    work,
    found.kind === "sscc" ? { sscc: found.sscc } : { orderNumber: found.orderNumber, number: found.number },
    place,
  )
  if (!outcome.ok) return refusal(sayReasons(outcome.reasons))
  const words = { name: outcome.value.name, place: place.name }
  return done(place.kind === "lane" ? say("staging.put", words) : say("staging.put-door", words))
}

export const meta: Route.MetaFunction = () => [{ title: `${say("staging.title")} · ${say("app.name")}` }]

const written = (place: Place): string => `${place.kind} ${place.name}`

export default function Staging({ loaderData: at, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const navigate = useNavigate()
  useLive(null)
  /** A place that is scanned is where the next packages go. */
  const choose = (text: string): boolean => {
    const place = placeNamed(text)
    if (place) void navigate(`?at=${encodeURIComponent(written(place))}`)
    return place !== null
  }
  return (
    <Screen
      ribbon={{}}
      name="staging"
      sill={{
        plate: at.place
          ? {
              verb: say("staging.done"),
              detail: say("staging.place", { kind: at.place.kind, place: at.place.name }),
              ready: true,
              to: "/dock/staging",
            }
          : { verb: say("form.to-dock"), detail: say("staging.no-place"), ready: true, to: "/dock" },
        does: choose,
        understand: (text) => {
          const place = placeNamed(text)
          return place ? { fits: true, words: say("staging.place", { kind: place.kind, place: place.name }) } : null
        },
        scanFields: { at: at.place ? written(at.place) : "" },
        answer: actionData?.answer,
        words: [
          [say("words.lane"), say("words.lane.does")],
          [say("words.sscc"), say("words.sscc.does")],
        ],
      }}
    >
      <div className="place-head">
        <h1>{say("staging.title")}</h1>
        <p>
          {at.place ? say("staging.place", { kind: at.place.kind, place: at.place.name }) : say("staging.no-place")}
        </p>
      </div>
      <search>
        <Form className="forms-find">
          <TextField name="find" label="staging.find" value={at.text} most={60} />
          <Button type="submit">{say("staging.search")}</Button>
        </Form>
      </search>
      <nav className="staging-places" aria-label={say("staging.places")}>
        {at.places.map(({ where, packages }) => {
          const name = say(`staging.place-${where.place}`, { place: where.door })
          return where.place === "lane" || where.place === "door" ? (
            <Link key={name} to={`?at=${encodeURIComponent(`${where.place} ${where.door}`)}`}>
              {name} ({packages})
            </Link>
          ) : (
            <span key={name}>
              {name} ({packages})
            </span>
          )
        })}
      </nav>
      {at.packages.length === 0 ? (
        <p className="nothing">{say("staging.none")}</p>
      ) : (
        <Table caption={say("staging.title")} rows={at.packages} rowKey={(one) => one.id} columns={columnsOf(zone)} />
      )}
      {at.more > 0 ? <p className="note">{say("staging.more", { n: at.more })}</p> : null}
    </Screen>
  )
}

type Row = Route.ComponentProps["loaderData"]["packages"][number]

const columnsOf = (zone: string): readonly TableColumn<Row>[] => [
  {
    name: "package",
    head: say("staging.package"),
    heads: true,
    cell: (one) => <Link to={`/orders/${one.orderNumber}`}>{one.name}</Link>,
  },
  { name: "receiver", head: say("staging.receiver"), cell: (one) => one.receiver },
  { name: "state", head: say("form.state"), cell: (one) => wordFor("package", one.state) },
  {
    name: "seen",
    head: say("staging.where"),
    cell: (one) =>
      one.seenAt && one.seenWhere
        ? say(`dock.seen.${one.seenWhere.place}`, { time: clock(one.seenAt, zone), door: one.seenWhere.door })
        : say("staging.never"),
  },
  {
    name: "truck",
    head: say("staging.truck"),
    cell: (one) =>
      one.collectionId && one.cutOff ? (
        <Link to={`/dock/${one.collectionId}`} className={one.late ? "ember" : undefined}>
          {one.door} {one.carrier} {clock(one.cutOff, zone)}
          {one.late ? `, ${say("staging.late")}` : ""}
        </Link>
      ) : (
        say("staging.no-truck")
      ),
  },
]
