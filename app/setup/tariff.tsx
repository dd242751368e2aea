import { Button, NativeSelect } from "@chakra-ui/react"
import { showMoney } from "core/money/index.ts"
import { accepted } from "core/refusal/index.ts"
import { type Tariff, tariffTables, tariffText, withTable } from "core/tariff/index.ts"
import { useEffect, useMemo, useState } from "react"
import { data, Form, Link, redirect, useNavigation } from "react-router"
import { wholeText } from "server/formats/text.ts"
import { workContext } from "server/http/context.ts"
import { tryOnLastMonth } from "server/rating/pastShipments.ts"
import type { Trial } from "server/rating/trial.ts"
import { changeVersion, copyVersion, saveDraft, versionOf } from "server/rating/versions.ts"
import { dayAndClock, shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { Act } from "../parts/ActForm.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { useShell } from "../shell/useNow.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/tariff"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"
import { TextEditor } from "./TextEditor.tsx"
import { readTable, tableText } from "./tableText.ts"
import { type Linted, lintDocument, lintTable } from "./tariffLint.ts"

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "tariffs.manage")
  const version = await versionOf(work.db, params.code, Number(params.number))
  if (!version) throw data(null, { status: 404 })
  const { tariff, ...facts } = version
  return { ...facts, code: params.code, name: tariff.name, text: tariffText(tariff), rights: setUpRights(work.actor) }
}

/** Most signs of a document or table. */
const largest = 1_000_000

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const { code } = params
  const number = Number(params.number)
  const at = "/set-up/carriers"
  const turn = (how: "release" | "withdraw") =>
    act(
      nothing,
      () => changeVersion(work, code, number, how),
      () => say(`tariff.done.${how}`),
    )
  return answerTo(
    request,
    work,
    {
      save: act(
        z.object({ revision: field.version, document: z.string() }),
        (_, { revision, document }) => saveDraft(work, code, number, revision, document),
        () => say("tariff.saved"),
      ),
      release: turn("release"),
      withdraw: turn("withdraw"),
      drop: act(
        nothing,
        () => changeVersion(work, code, number, "drop"),
        () => {
          throw redirect(at)
        },
      ),
      copy: act(
        nothing,
        () => copyVersion(work, code, number),
        (copy) => {
          throw redirect(`${at}/${code}/${copy.number}`)
        },
      ),
      try: act(
        nothing,
        async () => {
          allow(work, "tariffs.manage")
          const version = await versionOf(work.db, code, number)
          if (!version) throw data(null, { status: 404 })
          return accepted(await tryOnLastMonth(work.db, version.carrierId, version.tariff, work.now))
        },
        (trial) => ({ ...done(""), trial }),
      ),
    },
    {
      upload: async (file, _, { table = "" }) => takeTable(work, code, number, table, await wholeText(file, largest)),
    },
  )
}

/** A table's file taken into the draft, or every cell that is wrong. */
async function takeTable(
  work: Parameters<typeof saveDraft>[0],
  code: string,
  number: number,
  name: string,
  text: string,
) {
  const version = await versionOf(work.db, code, number)
  const read = readTable(name, text)
  if (!version || !read) return refusal(say("tariff.no-csv"))
  const answer = withTable(version.tariff, read.table)
  if (!answer.ok)
    return refusal(
      answer.cells
        .slice(0, 12)
        .map(({ row, column, why }) => say("tariff.cell", { row, column, why: sayReason(why) }))
        .join(" "),
    )
  const outcome = await saveDraft(work, code, number, version.revision, tariffText(answer.tariff))
  return outcome.ok ? done(say("tariff.table-taken", { name })) : refusal(sayReasons(outcome.reasons))
}

export const meta: Route.MetaFunction = ({ params }) => [
  { title: `${params.code} ${params.number} · ${say("setup.carriers")} · ${say("app.name")}` },
]

/** The whole document, as a choice beside the tables. */
const whole = ""

export default function TariffVersion({ loaderData: version, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const { zone } = useShell()
  const busy = useNavigation().state !== "idle"
  const draft = version.state === "draft"
  const { table, text, setText, linted, names, candidate, dirty, errors, choose } = useTariffText(version)
  const [goTo, setGoTo] = useState<{ at: number; key: number } | null>(null)
  const trial = actionData && "trial" in actionData ? (actionData.trial as Trial) : null
  return (
    <Screen
      ribbon={{}}
      name="tariff"
      sill={{
        plate: plate(draft, dirty, candidate !== null, errors),
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.carriers" rights={version.rights} />
      <div className="tariff-body">
        <section className="tariff-text">
          <header>
            <h2>
              {version.name} <span className="code">{version.code}</span> {say("tariff.version", { n: version.number })}
            </h2>
            <p>
              {say(`tariff.state.${version.state}`)},{" "}
              {say(version.validTo ? "tariff.from-to" : "tariff.from", {
                from: shortDay(version.validFrom),
                to: version.validTo ? shortDay(version.validTo) : "",
              })}
              . {say("tariff.made", { who: version.madeBy, when: dayAndClock(version.madeAt, zone) })}
            </p>
            <div className="tariff-choice">
              <label htmlFor="tariff-table">{say("tariff.shows")}</label>
              <NativeSelect.Root width="240px" disabled={candidate === null}>
                <NativeSelect.Field
                  id="tariff-table"
                  value={table}
                  onChange={(event) => choose(event.currentTarget.value)}
                >
                  <option value={whole}>{say("tariff.document")}</option>
                  {names.map((name) => (
                    <option key={name} value={name}>
                      {name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
              <a
                href={`/set-up/carriers/${version.code}/${version.number}/${table === whole ? "tariff.json" : `${table}.csv`}`}
              >
                {say(table === whole ? "tariff.take-json" : "tariff.take-csv")}
              </a>
              {draft && table !== whole ? (
                <Form method="post" encType="multipart/form-data">
                  <input type="hidden" name="table" value={table} />
                  <label htmlFor="tariff-file" className="sr-only">
                    {say("tariff.csv-file")}
                  </label>
                  <FileInput id="tariff-file" accept=".csv,text/csv" />
                  <Button type="submit">{say("tariff.csv-in")}</Button>
                </Form>
              ) : null}
            </div>
          </header>
          <TextEditor
            key={table === whole ? "json" : "csv"}
            text={text}
            json={table === whole}
            readOnly={!draft}
            marks={linted.marks}
            label={table === whole ? say("tariff.document") : table}
            goTo={goTo}
            onChange={setText}
          />
        </section>
        <section className="tariff-side">
          <h2>
            {linted.marks.length === 0
              ? say("lint.none")
              : `${counted("error", errors)}, ${counted("finding", linted.marks.length)}`}
          </h2>
          <ul className="lint-list">
            {linted.marks.slice(0, 200).map((mark, index) => (
              <li key={index} className={mark.level === "error" ? "ember" : undefined}>
                <button type="button" className="as-link" onClick={() => setGoTo({ at: mark.from, key: Date.now() })}>
                  {mark.place || say("tariff.document")}
                </button>{" "}
                {mark.words}
              </li>
            ))}
          </ul>
          <Act
            id="tariff-form"
            intent="save"
            sends={{ revision: version.revision, document: candidate ? tariffText(candidate) : "" }}
          ></Act>
          <div className="tariff-acts">
            {(draft
              ? ["try", "release", "copy", "drop"]
              : version.state === "released"
                ? ["try", "copy", "withdraw"]
                : ["copy"]
            ).map((intent) => (
              <Act key={intent}>
                <Button
                  type="submit"
                  name="intent"
                  value={intent}
                  disabled={busy || (dirty && intent !== "drop") || (intent === "release" && errors > 0)}
                >
                  {wordFor("tariff.do", intent)}
                </Button>
              </Act>
            ))}
          </div>
          {dirty ? <p className="note">{say("tariff.save-first")}</p> : null}
          {trial ? <TrialShown trial={trial} /> : null}
          <p>
            <Link to="/set-up/carriers">{say("tariff.back")}</Link>
          </p>
        </section>
      </div>
    </Screen>
  )
}

/** The text that is edited, the whole document or one of its tables, linted as one types. */
function useTariffText(version: Pick<Route.ComponentProps["loaderData"], "text" | "revision">) {
  // what was read from the server, then what was typed; a revision that was saved elsewhere comes in again
  const [kept, setKept] = useState({ text: version.text, revision: version.revision })
  const [table, setTable] = useState(whole)
  const [text, setText] = useState(version.text)
  const [linted, setLinted] = useState<Linted>(() => lintDocument(version.text))
  const [tariff, setTariff] = useState<Tariff | null>(linted.tariff)
  if (kept.revision !== version.revision) {
    setKept({ text: version.text, revision: version.revision })
    const anew = lintDocument(version.text)
    setTariff(anew.tariff)
    const shown = table === whole ? undefined : tables(anew.tariff).find((one) => one.name === table)
    setTable(shown ? table : whole)
    setText(shown ? tableText(shown) : version.text)
    setLinted(anew)
  }
  // live, but not at every sign
  useEffect(() => {
    const timer = setTimeout(() => {
      const found = table === whole ? lintDocument(text) : tariff && lintText(tariff, table, text)
      if (!found) return
      setLinted(found)
      if (found.tariff && table === whole) setTariff(found.tariff)
    }, 300)
    return () => clearTimeout(timer)
  }, [text, table, tariff])
  const names = useMemo(() => tables(tariff).map((one) => one.name), [tariff])
  const candidate = linted.tariff
  const dirty = candidate !== null && tariffText(candidate) !== version.text
  const errors = linted.marks.filter((one) => one.level === "error").length
  const choose = (name: string) => {
    const base = candidate ?? tariff
    if (!base) return
    setTariff(base)
    setTable(name)
    const chosen = tables(base).find((one) => one.name === name)
    setText(chosen ? tableText(chosen) : tariffText(base))
  }
  return { table, text, setText, linted, names, candidate, dirty, errors, choose }
}

const tables = (tariff: Tariff | null) => (tariff ? tariffTables(tariff) : [])

function lintText(tariff: Tariff, name: string, text: string): Linted {
  const read = readTable(name, text)
  if (read) return lintTable(tariff, read.table, read.starts, text.length)
  return { tariff: null, marks: [{ level: "error", from: 0, to: 1, place: name, words: say("tariff.no-csv") }] }
}

/** So many errors or findings, in words. */
const counted = (what: "error" | "finding", n: number): string => say(`lint.${what}s`, { n })

function plate(draft: boolean, dirty: boolean, sound: boolean, errors: number) {
  if (!draft) return { verb: say("tariff.plate-fixed"), detail: say("tariff.plate-fixed-detail"), ready: false }
  if (!sound)
    return { verb: say("tariff.plate-mend", { n: errors }), detail: say("tariff.plate-mend-detail"), ready: false }
  return {
    verb: say(dirty ? "tariff.plate-save" : "tariff.plate-saved"),
    detail: errors > 0 ? say("tariff.plate-errors", { n: errors }) : say("tariff.plate-clean"),
    ready: dirty,
    form: "tariff-form",
  }
}

/** What the shipments of the last month would have cost by this version. */
function TrialShown({ trial }: { trial: Trial }) {
  if (trial.services.length === 0) return <p className="note">{say("trial.none")}</p>
  return (
    <section className="trial" aria-labelledby="trial-title">
      <h3 id="trial-title">{say("trial.title")}</h3>
      <Table
        rows={trial.services}
        rowKey={(one) => one.service}
        columns={[
          { name: "service", head: say("rate.service"), heads: true, cell: (one) => one.service },
          { name: "shipments", head: say("trial.shipments"), className: "figure", cell: (one) => one.shipments },
          ...(["before", "after"] as const).map((name) => ({
            name,
            head: say(`trial.${name}`),
            className: "figure",
            by: (one: (typeof trial.services)[number]) => Number(one[name].amount),
            cell: (one: (typeof trial.services)[number]) => showMoney(one[name]),
          })),
          {
            name: "refused",
            head: say("trial.refused"),
            className: "figure",
            by: (one) => one.refused,
            cell: (one) => <span className={one.refused > 0 ? "ember" : undefined}>{one.refused}</span>,
          },
        ]}
      />
      <ul className="trial-changes">
        {trial.changes.map((one) => (
          <li key={`${one.orderNumber} ${one.service}`}>
            <Link to={`/orders/${one.orderNumber}`}>{one.orderNumber}</Link> {one.service} {one.before} →{" "}
            {one.after ?? sayReasons(one.reasons)}
          </li>
        ))}
      </ul>
    </section>
  )
}
