import { isLocalDate } from "core/calendar/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { Link } from "react-router"
import { may } from "server/actors/index.ts"
import { formsAtOnce, searchForms } from "server/dock/forms.ts"
import { workContext } from "server/http/context.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { dockPlate, SearchedList, searchAsked, searchChoice } from "../parts/Searched.tsx"
import type { TableColumn } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/forms"
import { FormActs } from "./DoorForms.tsx"
import { formBrief } from "./dockView.server.ts"
import { formActs } from "./formActs.server.ts"

const states = ["made", "sending", "done", "refused", "discarded"] as const

export async function loader({ request, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "packing.see")
  const { asked, one, query } = searchAsked(request)
  const day = (name: string) => {
    const text = query.get(name) ?? ""
    return isLocalDate(text) ? text : ""
  }
  const search = { ...asked, from: day("from"), until: day("until"), state: one("state", states, "") }
  const found = await searchForms(work.db, work.warehouse.id, search)
  return {
    search,
    forms: found.slice(0, formsAtOnce).map((form) => ({
      ...formBrief(form),
      collectionId: form.collectionId,
      door: form.door,
      carrier: form.carrier,
      onDate: form.onDate,
      madeAt: form.madeAt,
      madeBy: form.madeBy,
      closed: form.closed,
    })),
    more: found.length > formsAtOnce,
    lead: may(work.actor, "dock.reopen"),
    key: crypto.randomUUID(),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  return answerTo(request, context.get(workContext), formActs)
}

export const meta: Route.MetaFunction = () => [{ title: `${say("form.title")} · ${say("app.name")}` }]

type Row = Route.ComponentProps["loaderData"]["forms"][number]

export default function Forms({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  const { search, forms, more, lead, key } = loaderData
  return (
    <SearchedList
      name="forms"
      title="form.title"
      plate={dockPlate()}
      answer={actionData?.answer}
      words={[
        [say("words.form"), say("words.form.does")],
        [say("words.door"), say("words.door.does")],
      ]}
      find="form.find"
      asked={search}
      fields={[
        { name: "from", label: "form.from", value: search.from },
        { name: "until", label: "form.until", value: search.until },
        searchChoice(
          { name: "state", label: "form.state", value: search.state },
          states,
          (state) => say(`form.state.${state}`),
          say("form.any-state"),
        ),
      ]}
      rows={forms}
      more={more}
      columns={columnsOf(zone, lead, key)}
      className="form-list"
      nothing="form.none-found"
    />
  )
}

const columnsOf = (zone: string, lead: boolean, key: string): readonly TableColumn<Row>[] => [
  {
    name: "number",
    head: say("form.number"),
    heads: true,
    cell: (form) =>
      form.document ? (
        <a href={`/papers/${form.document}.pdf`} className="code">
          {form.number}
        </a>
      ) : (
        <span className="code">{form.number}</span>
      ),
  },
  {
    name: "door",
    head: say("form.door"),
    cell: (form) => (
      <Link to={`/dock/${form.collectionId}`}>
        {say("form.at-door", { door: form.door, day: shortDay(form.onDate) })}
      </Link>
    ),
  },
  {
    name: "carrier",
    head: say("form.carrier"),
    cell: (form) => (
      <>
        {form.carrier}
        <br />
        {[form.account, form.service].filter(Boolean).join(", ")}
      </>
    ),
  },
  {
    name: "way",
    head: say("form.kind"),
    cell: (form) => (
      <>
        {say("form.row", { way: say(`form.way.${form.way}`), n: form.packages })}
        {form.supplement ? `, ${say("form.supplement")}` : ""}
      </>
    ),
  },
  {
    name: "made",
    head: say("form.made"),
    cell: (form) => (
      <>
        {dayAndClock(form.madeAt, zone)}
        <br />
        {form.madeBy}
      </>
    ),
  },
  {
    name: "state",
    head: say("form.state"),
    cell: (form) => (
      <span className={form.state === "refused" ? "ember" : undefined}>
        {form.trouble ? sayReason(form.trouble as Reason) : say(`form.state.${form.state}`)}
        {form.carrierNumber ? ` (${form.carrierNumber})` : ""}
      </span>
    ),
  },
  {
    name: "acts",
    head: "",
    className: "acts",
    cell: (form) =>
      form.state === "discarded" ? null : <FormActs form={form} open={!form.closed} sendKey={key} lead={lead} />,
  },
]
