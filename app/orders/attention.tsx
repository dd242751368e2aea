import { Button } from "@chakra-ui/react"
import type { ClaimKind } from "core/claims/index.ts"
import { needs } from "core/tracking/index.ts"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { workContext } from "server/http/context.ts"
import { caseForm, casesAtOnce, letCasesGo, openCases, searchCases, watchCases } from "server/tracking/cases.ts"
import { newAddress, readdress } from "server/tracking/readdress.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { claimActs } from "../parts/claimActs.server.ts"
import { Choice, TextField } from "../parts/Fields.tsx"
import { ListCounts, SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/attention"

const states = ["open", "watched", "let-go", "over"] as const

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.see")
  const { asked, one } = searchAsked(request)
  const search = { ...asked, kind: one("kind", needs, ""), state: one("state", states, "open") }
  const found = await searchCases(work.db, work.warehouse.id, search)
  return {
    search,
    cases: found.slice(0, casesAtOnce),
    more: found.length > casesAtOnce,
    counts: [...(await openCases(work.db, work.warehouse.id))],
    mayWork: may(work.actor, "orders.work"),
    key: crypto.randomUUID(),
  }
}

const chosen = caseForm.extend({ case: field.many(field.id, 200) })

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  return answerTo(request, work, {
    ...claimActs,
    watch: act(
      chosen,
      (work, { case: ids, ...said }) => watchCases(work, ids, said),
      ({ cases }) => say("tracking.watches", { n: cases }),
    ),
    "let-go": act(
      chosen,
      (work, { case: ids, note }) => letCasesGo(work, ids, note),
      ({ cases }) => say("tracking.lets-go", { n: cases }),
    ),
    address: act(
      newAddress.extend({ unit: field.id }),
      (work, { unit, ...said }, { key }) => readdress(work, unit, said, key),
      ({ name }) => say("tracking.address-goes", { package: name }),
    ),
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("tracking.attention")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["cases"][number]

export default function Attention({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  const { search, cases, more, mayWork, counts, key } = loaderData
  return (
    <SearchedList
      name="attention"
      title="tracking.attention"
      head={
        <ListCounts by="kind" lists={counts.map(([list, n]) => ({ list, name: say(`tracking.need.${list}`), n }))} />
      }
      answer={actionData?.answer}
      find="tracking.find"
      asked={search}
      fields={[
        searchChoice(
          { name: "kind", label: "tracking.which", value: search.kind },
          needs,
          (kind) => say(`tracking.need.${kind}`),
          say("tracking.any-kind"),
        ),
        searchChoice({ name: "state", label: "tracking.list", value: search.state }, states, (state) =>
          say(`tracking.list.${state}`),
        ),
      ]}
      rows={cases}
      more={more}
      columns={columnsOf(zone, mayWork, key)}
      className="case-list"
      nothing="tracking.none-found"
      none="tracking.all-well"
    >
      {mayWork && cases.some(isOpen) ? (
        <ActForm id="cases-form" className="case-acts" key={actionData?.answer.key}>
          <b>{say("tracking.selected")}</b>
          <TextField name="note" label="tracking.note" value="" most={200} />
          <Choice
            name="until"
            label="tracking.until"
            value="1d"
            options={(["4h", "1d", "3d"] as const).map((one) => ({ value: one, text: say(`tracking.until.${one}`) }))}
          />
          <Button type="submit" name="intent" value="watch">
            {say("tracking.watch")}
          </Button>
          <Button type="submit" name="intent" value="let-go" variant="ghost">
            {say("tracking.let-go")}
          </Button>
        </ActForm>
      ) : null}
    </SearchedList>
  )
}

/** What a carrier may owe for. */
const claimed: Readonly<Partial<Record<Row["kind"], ClaimKind>>> = {
  damaged: "damage",
  lost: "loss",
  "no-movement": "loss",
  "not-seen": "loss",
}

const isOpen = (one: Row): boolean => one.state === "open" || one.state === "watched"

/** What is known of a problem besides its name. */
function figuresOf({ kind, figures }: Row): string {
  const { due = "", estimated, percent = "", days = "" } = figures
  if (kind === "late")
    return estimated
      ? say("tracking.figures.late-by", { due: shortDay(due), estimated: shortDay(estimated) })
      : say("tracking.figures.late", { due: shortDay(due) })
  if (kind === "likely-late") return say("tracking.figures.likely-late", { due: shortDay(due), percent })
  if (kind === "no-movement" || kind === "not-seen" || kind === "not-fetched")
    return say(`tracking.figures.${kind}`, { days: Number(days) })
  return say(`tracking.figures.${kind}`)
}

const columnsOf = (zone: string, mayWork: boolean, key: string): readonly TableColumn<Row>[] => [
  {
    name: "tick",
    head: "",
    className: "tick",
    cell: (one) =>
      mayWork && isOpen(one) ? (
        <input
          type="checkbox"
          name="case"
          value={one.id}
          form="cases-form"
          aria-label={say("tracking.select", { package: one.unit.name, problem: say(`tracking.need.${one.kind}`) })}
        />
      ) : null,
  },
  {
    name: "problem",
    head: say("tracking.problem"),
    cell: (one) => (
      <>
        <b className={one.kind === "likely-late" ? undefined : "ember"}>{say(`tracking.need.${one.kind}`)}</b>
        <br />
        <small>{figuresOf(one)}</small>
      </>
    ),
  },
  {
    name: "package",
    head: say("tracking.package"),
    heads: true,
    cell: (one) => (
      <>
        <Link to={`/orders/${one.orderNumber}`}>{one.unit.name}</Link>
        <br />
        <span className="code">{one.unit.tracking}</span>
      </>
    ),
  },
  {
    name: "receiver",
    head: say("tracking.receiver"),
    cell: (one) => (
      <>
        {one.company}, {one.place}
        {one.phone ? (
          <>
            <br />
            <a href={`tel:${one.phone.replace(/[^+\d]/g, "")}`}>{say("tracking.call", { phone: one.phone })}</a>
          </>
        ) : null}
      </>
    ),
  },
  {
    name: "last",
    head: say("tracking.last"),
    cell: ({ unit }) => (
      <>
        {[unit.carrier, say(`tracking.state.${unit.state}`)].join(", ")}
        <br />
        <small>
          {unit.seenAt
            ? [dayAndClock(unit.seenAt, zone), unit.place].filter(Boolean).join(", ")
            : say("tracking.never")}
        </small>
      </>
    ),
  },
  {
    name: "acts",
    head: say("tracking.do"),
    className: "acts",
    cell: (one) => (
      <>
        {one.readdressed ? (
          <p className={one.readdressed === "refused" ? "ember" : undefined}>
            {say(`tracking.readdress.${one.readdressed}`)}
          </p>
        ) : null}
        {one.state === "watched" && one.watchUntil ? (
          <p>{say("tracking.watched-until", { time: dayAndClock(one.watchUntil, zone) })}</p>
        ) : null}
        {one.note ? <p>{say("tracking.by", { name: one.by, note: one.note })}</p> : null}
        {mayWork && isOpen(one) && claimed[one.kind] ? (
          <Act intent="claim" sends={{ unit: one.unit.id, kind: claimed[one.kind] }}>
            <Button type="submit" variant="ghost" aria-label={say("claim.start-of", { package: one.unit.name })}>
              {say("claim.start")}
            </Button>
          </Act>
        ) : null}
        {mayWork && isOpen(one) && one.unit.ours && one.readdressed !== "waiting" ? (
          <NewAddress one={one} sendKey={key} />
        ) : null}
      </>
    ),
  },
]

/** Another address for a package, told to its carrier. */
function NewAddress({ one, sendKey }: { one: Row; sendKey: string }) {
  const id = one.unit.id
  return (
    <details className="new-address" open={false}>
      <summary>{say("tracking.new-address")}</summary>
      <ActForm intent="address" sends={{ unit: id, key: sendKey }} id={`address-${one.id}`}>
        <TextField name="company" id={`company-${one.id}`} label="tracking.company" value={one.company} most={60} />
        <TextField name="attention" id={`attention-${one.id}`} label="tracking.person" value="" most={60} />
        <TextField name="street" id={`street-${one.id}`} label="tracking.street" value="" most={60} />
        <TextField name="street2" id={`street2-${one.id}`} label="tracking.street2" value="" most={60} />
        <TextField name="city" id={`city-${one.id}`} label="tracking.city" value="" most={40} />
        <div className="pair">
          <TextField name="state" id={`state-${one.id}`} label="tracking.region" value="" most={6} />
          <TextField name="postalCode" id={`postal-${one.id}`} label="tracking.postal-code" value="" most={12} />
        </div>
        <TextField name="phone" id={`phone-${one.id}`} label="tracking.phone" value={one.phone} most={24} />
        <Button type="submit">{say("tracking.send-address", { carrier: one.unit.carrier })}</Button>
      </ActForm>
    </details>
  )
}
