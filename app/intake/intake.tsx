import { Button } from "@chakra-ui/react"
import { addDays, isLocalDate, localDate } from "core/calendar/index.ts"
import { Form, Link, redirect, useNavigation } from "react-router"
import { may } from "server/actors/index.ts"
import { FileRefused, fields } from "server/formats/orderRow.ts"
import { workContext } from "server/http/context.ts"
import { recentIntakes } from "server/intake/file.ts"
import { pullPeriod } from "server/intake/pull.ts"
import { previewFile } from "server/intake/read.ts"
import { type SourceRow, seenRefusedFile, sources } from "server/intake/sources.ts"
import { drafts } from "server/intake/typed.ts"
import { clock, dayAndClock } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, sayTrouble } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"
import { act, always, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/intake"

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const [all, recent, typed] = await Promise.all([sources(work), recentIntakes(work), drafts(work)])
  const today = localDate(work.now, work.warehouse.zone)
  return {
    columns: fields.join(", "),
    recent,
    drafts: typed,
    sources: all.map(({ mapping, ...one }) => ({ ...one, mapped: mapping !== null })),
    period: { from: addDays(today, -1), to: today },
    mayManage: may(work.actor, "sources.manage"),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const day = field.text(10).refine(isLocalDate, { error: "intake.ask-dates" })
  return answerTo(
    request,
    work,
    {
      ask: act(
        z.object({ source: field.text(24), from: day, to: day }),
        (_, { source, from, to }) => pullPeriod(work, source, { from, to }),
        ({ orders }) => say("intake.asked", { n: orders }),
      ),
      seen: act(z.object({ id: field.id }), (_, { id }) => always(seenRefusedFile(work, id))),
    },
    {
      upload: async (file, name, values) => {
        try {
          const id = await previewFile(work, String(values.source || "file"), name, file)
          return redirect(`/orders/intake/${id}`)
        } catch (error) {
          if (!(error instanceof FileRefused)) throw error
          return { ...refusal(`${sayReason(error.reason)} ${say("intake.refused")}`), why: sayReason(error.reason) }
        }
      },
    },
  )
}

export const meta: Route.MetaFunction = () => [{ title: `${say("intake.title")} · ${say("app.name")}` }]

export default function Intake({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  useLive(null)
  const taking = loaderData.sources.filter((one) => one.active && (one.kind === "upload" || one.kind === "folder"))
  const asked = loaderData.sources.filter((one) => one.active && one.kind === "pull")
  const { zone } = useShell()
  return (
    <Screen
      ribbon={{}}
      name="intake"
      sill={{
        plate: { verb: say("intake.plate"), detail: say("intake.plate-detail"), ready: true, form: "intake-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{say("intake.title")}</h1>
        <nav className="set-up-pages" aria-label={say("intake.ways")}>
          <Link to="/orders/new">{say("intake.type")}</Link>
          <Link to="/orders/tracking">{say("tracking.title")}</Link>
          {loaderData.mayManage ? <Link to="/set-up/sources">{say("intake.set-up")}</Link> : null}
        </nav>
      </div>
      <Form method="post" encType="multipart/form-data" id="intake-form" className="upload">
        <Choice
          name="source"
          label="intake.from"
          value="file"
          options={taking.map((one) => ({ value: one.code, text: one.name }))}
        />
        <div className="field">
          <label htmlFor="file">{say("intake.file")}</label>
          <FileInput id="file" accept=".csv,.tsv,.edi,.txt,.json,text/csv,text/plain,application/json" />
        </div>
        <Button type="submit" disabled={busy}>
          {say(busy ? "intake.reading" : "intake.upload")}
        </Button>
        {actionData && "why" in actionData ? (
          <p role="alert" className="ember">
            {String(actionData.why)} {say("intake.refused")}
          </p>
        ) : null}
      </Form>
      <div className="two">
        <section className="scrolls">
          <Table
            className="rows sources"
            title={say("intake.sources")}
            rows={loaderData.sources}
            rowKey={(source) => source.id}
            rowClass={(source) => (source.active ? undefined : "pale")}
            columns={sourceColumns(loaderData.mayManage, zone)}
          />
          {asked.length > 0 ? (
            <ActForm intent="ask" className="upload ask">
              <Choice
                name="source"
                id="ask-source"
                label="intake.ask"
                value={asked[0]?.code ?? ""}
                options={asked.map((one) => ({ value: one.code, text: one.name }))}
              />
              <TextField name="from" label="intake.ask-from" type="date" value={loaderData.period.from} />
              <TextField name="to" label="intake.ask-to" type="date" value={loaderData.period.to} />
              <Button type="submit" disabled={busy}>
                {say("intake.ask-now")}
              </Button>
            </ActForm>
          ) : null}
          <p className="note aside">{say("intake.columns-note")}</p>
          <details className="note aside">
            <summary>{say("intake.columns-show")}</summary>
            <span className="code">{loaderData.columns}</span>
          </details>
        </section>
        <section className="intake-recent">
          <Recent recent={loaderData.recent} />
          <h2>{say("intake.drafts")}</h2>
          {loaderData.drafts.length === 0 ? <p className="note">{say("intake.no-drafts")}</p> : null}
          <ul className="plain-list">
            {loaderData.drafts.map((one) => (
              <li key={one.id}>
                <Link to={`/orders/new?draft=${one.id}`}>{one.title || say("intake.draft-empty")}</Link> {one.by}
              </li>
            ))}
          </ul>
        </section>
      </div>
    </Screen>
  )
}

type ShownSource = Omit<SourceRow, "mapping"> & { mapped: boolean }

/** How orders come in, when they did last, and what was refused of them. */
const sourceColumns = (mayManage: boolean, zone: string): readonly TableColumn<ShownSource>[] => [
  {
    name: "name",
    head: say("source.head.name"),
    heads: true,
    className: "big",
    by: (source) => source.name,
    cell: (source) =>
      mayManage && source.kind !== "typed" && source.kind !== "api" ? (
        <Link to={`/set-up/sources/${source.code}`}>{source.name}</Link>
      ) : (
        source.name
      ),
  },
  {
    name: "how",
    head: say("source.head.how"),
    cell: (source) =>
      [
        say(`source.how.${source.kind}`, { folder: source.folder ?? "", seconds: source.everySeconds }),
        ...(source.mapped ? [say("source.mapped")] : []),
        ...(source.active ? [] : [say("source.off")]),
      ].join(", "),
  },
  {
    name: "ran",
    head: say("source.head.ran"),
    className: (source) => (source.trouble ? "ember" : undefined),
    by: (source) => source.ranAt?.getTime() ?? 0,
    cell: (source) => (
      <>
        {source.ranAt ? clock(source.ranAt, zone) : "–"} {sayTrouble(source.trouble)}
        {source.refusedFile ? (
          <span className="ember">
            {source.refusedFile.name}: {sayReason(source.refusedFile.reason)}{" "}
            <Act intent="seen" sends={{ id: source.refusedFile.id }} className="in-line">
              <Button type="submit" variant="ghost">
                {say("source.seen")}
              </Button>
            </Act>
          </span>
        ) : null}
      </>
    ),
  },
  { name: "orders", head: say("source.head.orders"), className: "figure", cell: (source) => source.orders },
  {
    name: "refused",
    head: say("source.head.refused"),
    className: "figure",
    by: (source) => source.refusedRows,
    cell: (source) =>
      source.refusedRows > 0 && source.lastIntake ? (
        <Link to={`/orders/intake/${source.lastIntake}`} className="ember">
          {source.refusedRows}
        </Link>
      ) : (
        source.refusedRows
      ),
  },
]

function Recent({ recent }: { recent: Awaited<ReturnType<typeof recentIntakes>> }) {
  const { zone } = useShell()
  return (
    <>
      <h2>{say("intake.recent")}</h2>
      {recent.length === 0 ? <p className="note">{say("intake.none-yet")}</p> : null}
      <ul className="plain-list">
        {recent.map((file) => (
          <li key={file.id}>
            <Link to={`/orders/intake/${file.id}`}>{file.name}</Link>{" "}
            <span>
              {file.source}, {dayAndClock(file.uploaded_at, zone)}, {say("intake.rows", { n: file.row_count })},{" "}
              {file.state === "taking"
                ? say("intake.taking", { n: file.taken_count, of: file.order_count })
                : say(
                    file.state === "reading" ? "intake.reading" : file.taken_at ? "intake.taken" : "intake.not-taken",
                  )}
              {file.refused_count > 0 ? (
                <>
                  , <b className="ember">{say("intake.refused-rows", { n: file.refused_count })}</b>
                </>
              ) : null}
            </span>
          </li>
        ))}
      </ul>
    </>
  )
}
