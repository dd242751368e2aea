import { Button } from "@chakra-ui/react"
import { useState } from "react"
import { data, Form, Link, useNavigation } from "react-router"
import { workContext } from "server/http/context.ts"
import { correctRows } from "server/intake/correct.ts"
import { correctRow, intakePreview, pageOfIntake, type RefusedRow } from "server/intake/file.ts"
import { retryAside, startTaking } from "server/intake/take.ts"
import { dayAndClock } from "words/format.ts"
import { say, sayCode } from "words/index.ts"
import { sayReasons, sayTrouble, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { act, always, answerTo, field, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import type { Plate } from "../shell/Sill.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useLive } from "../shell/useLive.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/intake-file"

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "orders.work")
  const from = Math.max(0, Number(new URL(request.url).searchParams.get("from")) || 0)
  const preview = await intakePreview(work, Number(params.id) || 0, from)
  if (!preview) throw data(null, { status: 404 })
  return { ...preview, from, page: pageOfIntake }
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const id = Number(params.id) || 0
  const corrected = (n: number) => say("intake-file.corrected", { n })
  return answerTo(
    request,
    work,
    {
      "take-in": act(
        nothing,
        () => always(startTaking(work, id)),
        async (finished) => {
          const preview = await intakePreview(work, id)
          return finished ? doneWords(preview?.fates ?? {}) : say("intake-file.begun", { n: preview?.orderCount ?? 0 })
        },
      ),
      retry: act(
        nothing,
        () => always(retryAside(work, id)),
        async (n) => {
          const left = (await intakePreview(work, id))?.fates.aside ?? 0
          return left > 0 ? refusal(say("intake-file.still-aside", { n: left })) : say("intake-file.retried", { n })
        },
      ),
      correct: act(
        z.looseObject({ line: field.id }),
        (_, { line }, { form }) =>
          correctRow(work, id, line, Object.fromEntries([...form].map(([name, value]) => [name, String(value)]))),
        () => corrected(1),
      ),
    },
    {
      upload: async (file) => {
        const read = await correctRows(work, id, file)
        const words = corrected(read.corrected)
        return read.reasons.length === 0 ? done(words) : refusal(`${words} ${sayReasons(read.reasons.slice(0, 5))}`)
      },
    },
  )
}

/** Fates by which an order is made, changed or ended. */
const acting = ["new", "changed", "cancelled", "picking-begun"] as const
type Fates = Readonly<Record<string, number | undefined>>
const taken = (fates: Fates) => acting.reduce((sum, fate) => sum + (fates[fate] ?? 0), 0)
/** What became of a file's orders, by kind: imported, updated, canceled, waiting for a decision. */
const doneWords = (fates: Fates) =>
  acting
    .filter((fate) => fates[fate])
    .map((fate) => say(`intake-file.done.${fate}`, { n: fates[fate] ?? 0 }))
    .join(", ") || say("intake-file.done.none")

export const meta: Route.MetaFunction = () => [{ title: `${say("intake.title")} · ${say("app.name")}` }]

export default function IntakeFile({ loaderData: preview, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  useLive(null)
  const count = taken(preview.fates)
  return (
    <Screen
      ribbon={{}}
      name="intake-file"
      sill={{
        plate: plateOf(preview, count),
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <div className="place-head">
        <h1>{preview.name}</h1>
        <p>
          {preview.source}, {dayAndClock(preview.uploadedAt, zone)}.{" "}
          {say("intake-file.summary", {
            orders: preview.orderCount,
            rows: preview.rowCount,
            refused: preview.refusedCount,
          })}
        </p>
      </div>
      {preview.state === "taking" || preview.state === "reading" ? (
        <p className="progress" role="status">
          <progress max={Math.max(1, preview.orderCount)} value={preview.takenCount} />{" "}
          {preview.state === "reading"
            ? say("intake-file.reading", { n: preview.rowCount })
            : say("intake.taking", { n: preview.takenCount, of: preview.orderCount })}
        </p>
      ) : (
        <div className="fates">
          {Object.entries(preview.fates).map(([fate, n]) => (
            <span key={fate} className={fate === "aside" ? "ember" : undefined}>
              <b>{n}</b> {wordFor("fates", fate)}
            </span>
          ))}
          {preview.fates.aside ? (
            <Act intent="retry" className="in-line">
              <Button type="submit">{say("intake-file.retry")}</Button>
            </Act>
          ) : null}
        </div>
      )}
      <div className="two">
        <section className="scrolls">
          <Table
            rows={preview.orders}
            rowKey={(order) => order.number}
            sorts={preview.orderCount <= preview.page}
            rowClass={(order) => (order.fate === "unchanged" ? "pale" : undefined)}
            columns={[
              {
                name: "order",
                head: say("intake-file.order"),
                className: "code",
                heads: true,
                cell: (order) =>
                  order.orderNumber ? <Link to={`/orders/${order.orderNumber}`}>{order.number}</Link> : order.number,
              },
              { name: "customer", head: say("intake-file.customer"), cell: (order) => order.customer },
              { name: "place", head: say("intake-file.place"), cell: (order) => order.place },
              { name: "lines", head: say("intake-file.lines"), className: "figure", cell: (order) => order.goodRows },
              {
                name: "fate",
                head: say("intake-file.fate"),
                className: (order) =>
                  order.refusedRows > 0 || ["nothing-good", "aside", "other-warehouse"].includes(order.fate)
                    ? "ember"
                    : undefined,
                cell: (order) => (
                  <>
                    {sayCode(fateWords(order.fate, preview.takenAt !== null), {
                      orderNumber: order.orderNumber ?? "",
                      trouble: sayTrouble(order.trouble),
                    })}
                    {order.refusedRows > 0 && order.goodRows > 0
                      ? `, ${say("fate.with-refused", { n: order.refusedRows })}`
                      : ""}
                  </>
                ),
              },
            ]}
          />
          {preview.orderCount > preview.page ? (
            <p className="pager">
              {preview.from > 0 ? (
                <Link to={`?from=${Math.max(0, preview.from - preview.page)}`}>{say("intake-file.before")}</Link>
              ) : null}{" "}
              {say("intake-file.shown", {
                from: preview.from + 1,
                to: Math.min(preview.orderCount, preview.from + preview.page),
                of: preview.orderCount,
              })}{" "}
              {preview.from + preview.page < preview.orderCount ? (
                <Link to={`?from=${preview.from + preview.page}`}>{say("intake-file.after")}</Link>
              ) : null}
            </p>
          ) : null}
        </section>
        <section>
          <h2>{say("intake-file.refusals")}</h2>
          {preview.refusedCount === 0 ? (
            <p>{say("intake-file.no-refusals")}</p>
          ) : (
            <>
              <ul className="refused-rows">
                {preview.refused.map((row) => (
                  <Refused key={`${row.line} ${JSON.stringify(row.raw)}`} row={row} />
                ))}
              </ul>
              {preview.refusedCount > preview.refused.length ? (
                <p>{say("intake-file.more-refused", { n: preview.refusedCount - preview.refused.length })}</p>
              ) : null}
              <h3>{say("intake-file.elsewhere")}</h3>
              <p>
                <a href={`/orders/intake/${preview.id}/refused.csv`} download>
                  {say("intake-file.download")}
                </a>
              </p>
              <Form method="post" encType="multipart/form-data" className="upload small">
                <label htmlFor="corrected">{say("intake-file.send-corrected")}</label>
                <FileInput id="corrected" accept=".csv,text/csv" />
                <Button type="submit">{say("intake-file.send")}</Button>
              </Form>
            </>
          )}
        </section>
      </div>
    </Screen>
  )
}

const fateWords = (fate: string, isTaken: boolean) =>
  isTaken && acting.some((one) => one === fate) ? `fate.${fate}.done` : `fate.${fate}`

function plateOf(preview: Awaited<ReturnType<typeof loader>>, count: number): Plate {
  if (preview.state === "taking" || preview.state === "reading")
    return {
      verb: say("intake-file.plate-taking"),
      detail: say("intake.taking", { n: preview.takenCount, of: preview.orderCount }),
      ready: false,
    }
  if (preview.takenAt !== null)
    return {
      verb: say("intake-file.plate-done"),
      detail: doneWords(preview.fates),
      ready: true,
      to: "/",
    }
  if (count === 0) return { verb: say("intake-file.plate-none"), detail: say("intake.not-taken"), ready: false }
  return {
    verb: say("intake-file.plate", { n: count }),
    detail: say("intake-file.plate-detail"),
    ready: true,
    send: { intent: "take-in" },
  }
}

/** A refused row: what is wrong, and the fields to correct it in place. */
function Refused({ row }: { row: RefusedRow }) {
  const busy = useNavigation().state !== "idle"
  const wrong = [...new Set(row.refusals.flatMap((one) => one.values.field ?? []))].filter((name) => name in row.raw)
  const [open, setOpen] = useState(false)
  const [all, setAll] = useState(wrong.length === 0)
  const shown = all ? Object.keys(row.raw) : wrong
  return (
    <li>
      <p>
        <b>{say("intake-file.line-n", { n: row.line })}</b> {row.raw.order_number ? `${row.raw.order_number}: ` : ""}
        <span className="ember">{sayReasons(row.refusals)}</span>
      </p>
      {open ? (
        <ActForm intent="correct" sends={{ line: row.line }} className="correct">
          {shown.map((name) => (
            <TextField
              key={name}
              id={`${row.line}-${name}`}
              name={name}
              label={{ words: /^reference[+-]/.test(name) ? name.slice(10) : wordFor("field", name) }}
              value={row.raw[name]}
              most={500}
            />
          ))}
          <Button type="submit" disabled={busy}>
            {say("intake-file.correct-save")}
          </Button>{" "}
          {all ? null : (
            <Button type="button" variant="ghost" onClick={() => setAll(true)}>
              {say("intake-file.all-fields")}
            </Button>
          )}
        </ActForm>
      ) : (
        <Button
          type="button"
          onClick={() => setOpen(true)}
          aria-label={say("intake-file.correct-line", { n: row.line })}
        >
          {say("intake-file.correct")}
        </Button>
      )}
    </li>
  )
}
