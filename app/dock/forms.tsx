import { Button } from "@chakra-ui/react"
import { isLocalDate } from "core/calendar/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { Form, Link } from "react-router"
import { may } from "server/actors/index.ts"
import { formsAtOnce, searchForms } from "server/dock/forms.ts"
import { workContext } from "server/http/context.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason } from "words/reasons.ts"
import { Choice, TextField } from "../parts/Fields.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { answerTo } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
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
  const asked = new URL(request.url).searchParams
  const day = (name: string) => {
    const text = asked.get(name) ?? ""
    return isLocalDate(text) ? text : ""
  }
  const search = {
    text: (asked.get("find") ?? "").slice(0, 60),
    from: day("from"),
    until: day("until"),
    state: states.find((one) => one === asked.get("state")) ?? ("" as const),
    page: Math.min(10_000, Math.max(1, Number(asked.get("page")) || 1)),
  }
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
    <Screen
      ribbon={{}}
      name="forms"
      sill={{
        plate: { verb: say("form.to-dock"), detail: "", ready: true, to: "/dock" },
        answer: actionData?.answer,
        words: [
          [say("words.form"), say("words.form.does")],
          [say("words.door"), say("words.door.does")],
        ],
      }}
    >
      <div className="place-head">
        <h1>{say("form.title")}</h1>
      </div>
      <search>
        <Form className="forms-find">
          <TextField name="find" label="form.find" value={search.text} most={60} />
          <TextField name="from" label="form.from" type="date" value={search.from} />
          <TextField name="until" label="form.until" type="date" value={search.until} />
          <Choice
            name="state"
            label="form.state"
            value={search.state}
            options={[
              { value: "", text: say("form.any-state") },
              ...states.map((state) => ({ value: state, text: say(`form.state.${state}`) })),
            ]}
          />
          <Button type="submit">{say("form.search")}</Button>
        </Form>
      </search>
      {forms.length === 0 ? (
        <p className="nothing">{say("form.none-found")}</p>
      ) : (
        <Table
          caption={say("form.title")}
          rows={forms}
          rowKey={(form) => form.id}
          sorts={false}
          columns={columnsOf(zone, lead, key)}
        />
      )}
      <p className="pages">
        {search.page > 1 ? <Link to={pageAt(search, search.page - 1)}>{say("form.newer")}</Link> : null}{" "}
        {more ? <Link to={pageAt(search, search.page + 1)}>{say("form.older")}</Link> : null}
      </p>
    </Screen>
  )
}

type Search = Route.ComponentProps["loaderData"]["search"]

const pageAt = ({ text, from, until, state }: Search, page: number): string =>
  `?${new URLSearchParams({ find: text, from, until, state, page: String(page) })}`

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
