import { Button } from "@chakra-ui/react"
import type { Reason } from "core/refusal/index.ts"
import { accepted, reason, refused } from "core/refusal/index.ts"
import { data, Form, useNavigation } from "react-router"
import { guessedMapping, type Mapping, mapping } from "server/formats/mapping.ts"
import { fields } from "server/formats/orderRow.ts"
import { csvSample } from "server/formats/ordersCsv.ts"
import { encodings } from "server/formats/text.ts"
import type { Work } from "server/http/context.ts"
import { workContext } from "server/http/context.ts"
import {
  keepSample,
  sampleOf,
  saveMapping,
  saveSource,
  sourceForm,
  sources,
  tryMapping,
} from "server/intake/sources.ts"
import { makeReportSecret, reportForm, reportingOf, saveReporting, testReporting } from "server/reports/list.ts"
import { warehouses } from "server/setup/warehouse.ts"
import { say } from "words/index.ts"
import { sayReasons, wordFor } from "words/reasons.ts"
import { z } from "zod"
import { ActForm } from "../parts/ActForm.tsx"
import { Choice, TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/source"
import { ReportingFields } from "./ReportingFields.tsx"
import { SetUpHead } from "./SetUp.tsx"
import { SourceFields } from "./SourceFields.tsx"
import { setUpRights } from "./setUpRights.server.ts"

const referenceRows = 3

export async function loader({ params, context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "sources.manage")
  const source = (await sources(work)).find((one) => one.code === params.code && one.kind !== "typed")
  if (!source) throw data(null, { status: 404 })
  const sample = await sampleOf(work.db, params.code)
  const by = source.mapping ?? mapping.parse({ columns: sample ? guessedMapping(sample.header) : {} })
  return {
    source,
    sample,
    reporting: await reportingOf(work.db, source.id),
    mapping: by,
    tried: sample ? await tryMapping(work.db, sample, by) : [],
    warehouses: await warehouses(work.db),
    here: work.warehouse.id,
    rights: setUpRights(work.actor),
    fields,
    encodings,
  }
}

/** The mapping that a form holds, or what is wrong with it. */
function mappingFrom(form: FormData): Mapping | null {
  const text = (name: string) => String(form.get(name) ?? "")
  const filled = (prefix: string) =>
    Object.fromEntries(fields.flatMap((name) => (text(`${prefix}-${name}`) ? [[name, text(`${prefix}-${name}`)]] : [])))
  const units = text("units")
    .split(",")
    .map((pair) => pair.split("=").map((part) => part.trim()))
    .filter((pair): pair is [string, string] => pair.length === 2 && pair.every(Boolean))
  const read = mapping.safeParse({
    columns: filled("column"),
    fixed: filled("fixed"),
    references: Array.from({ length: referenceRows }, (_, index) => ({
      column: text(`reference-column-${index}`),
      name: text(`reference-name-${index}`) || text(`reference-column-${index}`).slice(0, 30),
      printed: form.get(`reference-printed-${index}`) === "on",
    })).filter((one) => one.column),
    encoding: text("encoding"),
    delimiter: text("delimiter") === "tab" ? "\t" : text("delimiter"),
    dateOrder: text("dateOrder"),
    decimal: text("decimal"),
    units: Object.fromEntries(units),
  })
  return read.success ? read.data : null
}

export async function action({ request, params, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const { code } = params
  return answerTo(
    request,
    work,
    {
      save: act(
        sourceForm,
        (_, fields) => saveSource(work, { ...fields, code }, false),
        () => say("source.saved"),
      ),
      reporting: act(
        reportForm,
        (work, said) => saveReporting(work, said),
        () => say("report.saved"),
      ),
      "report-secret": act(
        z.object({ id: field.id }),
        (work, { id }) => makeReportSecret(work, id),
        ({ secret }) => say("report.secret-is", { secret }),
      ),
      "report-test": act(
        z.object({ id: field.id }),
        (work, { id }) => testReporting(work, id),
        () => say("report.test-sent"),
      ),
      try: act(
        z.looseObject({}),
        (_, __, { form }) => triedMapping(work, code, form),
        (tried) => ({ ...done(say("source.tried")), ...tried }),
      ),
      map: act(
        z.looseObject({ version: field.version }),
        async (_, { version }, { form }) => {
          const tried = await triedMapping(work, code, form)
          if (!tried.ok) return tried
          const saved = await saveMapping(work, code, version, tried.value.mapping)
          return accepted({ ...tried.value, saved })
        },
        ({ saved, ...tried }) =>
          saved.ok ? say("source.mapping-saved") : { ...refusal(sayReasons(saved.reasons)), ...tried },
      ),
      unmap: act(
        z.looseObject({ version: field.version }),
        (_, { version }) => saveMapping(work, code, version, null),
        () => say("source.mapping-off"),
      ),
    },
    {
      upload: async (file, name, { encoding, delimiter }) => {
        allow(work, "sources.manage")
        const dialect = mapping.pick({ encoding: true, delimiter: true }).parse({
          encoding: encoding || "auto",
          delimiter: (delimiter === "tab" ? "\t" : delimiter) || "auto",
        })
        const { header, rows } = await csvSample(file, dialect)
        file.destroy()
        await keepSample(work, code, { name, header, rows })
        return done(say("source.sample-kept"))
      },
    },
  )
}

/** A mapping as it was typed, and what it makes of the sample. Trying shows rows of somebody's orders. */
async function triedMapping(work: Work, code: string, form: FormData) {
  allow(work, "sources.manage")
  const by = mappingFrom(form)
  if (!by) return refused(reason("source.mapping-shape"))
  const sample = await sampleOf(work.db, code)
  return accepted({ mapping: by, tried: sample ? await tryMapping(work.db, sample, by) : [] })
}

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.source.name ?? ""} · ${say("app.name")}` },
]

export default function SourcePage({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const { source, sample } = loaderData
  const by = actionData && "mapping" in actionData ? actionData.mapping : loaderData.mapping
  const tried = actionData && "tried" in actionData ? actionData.tried : loaderData.tried
  const writesCsv = source.kind === "upload" || source.kind === "folder"
  return (
    <Screen
      ribbon={{}}
      name="source"
      sill={{
        plate: {
          verb: say("source.plate", { name: source.name }),
          detail: say("source.plate-detail"),
          ready: true,
          form: "source-form",
        },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.sources" rights={loaderData.rights}>
        <p>
          <b>{source.name}</b>
        </p>
      </SetUpHead>
      <div className="two narrow-left">
        <section className="item-edit pad">
          <ActForm intent="save" sends={{ version: source.version }} id="source-form" key={source.version}>
            <SourceFields source={source} warehouses={loaderData.warehouses} here={loaderData.here} />
            <Button type="submit" disabled={busy}>
              {say("source.save")}
            </Button>
          </ActForm>
        </section>
        <section className="scrolls">
          {writesCsv ? (
            <>
              <h2>{say("source.writes")}</h2>
              <Form method="post" encType="multipart/form-data" className="upload small">
                <input type="hidden" name="encoding" value={by.encoding} />
                <input type="hidden" name="delimiter" value={by.delimiter === "\t" ? "tab" : by.delimiter} />
                <label htmlFor="sample">{say("source.sample")}</label>
                <FileInput id="sample" accept=".csv,.tsv,.txt,text/csv,text/plain" />
                <Button type="submit" disabled={busy}>
                  {say("source.sample-read")}
                </Button>
              </Form>
              {sample ? (
                <MappingForm
                  key={`${source.version} ${sample.name} ${JSON.stringify(by)}`}
                  by={by}
                  header={sample.header}
                  name={sample.name}
                  first={sample.rows[0] ?? {}}
                  version={source.version}
                  isMapped={source.mapping !== null}
                  busy={busy}
                  fields={loaderData.fields}
                  encodings={loaderData.encodings}
                />
              ) : (
                <p className="note">{say("source.no-sample")}</p>
              )}
              {tried.length > 0 ? <Tried rows={tried} /> : null}
            </>
          ) : (
            <p className="note">{say(source.kind === "pull" ? "source.pull-note" : "source.api-note")}</p>
          )}
          <ReportingFields
            id={source.id}
            version={source.version}
            reporting={loaderData.reporting}
            key={`r ${source.version}`}
          />
        </section>
      </div>
    </Screen>
  )
}

function MappingForm({
  by,
  header,
  name,
  first,
  version,
  isMapped,
  busy,
  fields,
  encodings,
}: {
  by: Mapping
  header: readonly string[]
  name: string
  first: Readonly<Record<string, string>>
  version: number
  isMapped: boolean
  busy: boolean
  fields: readonly (keyof Mapping["columns"])[]
  encodings: readonly string[]
}) {
  const columns = [{ value: "", text: "–" }, ...header.map((one) => ({ value: one, text: one }))]
  const some = (values: readonly string[], prefix: "encoding" | "delimiter" | "dates" | "decimal") =>
    values.map((value) => ({
      value: value === "\t" ? "tab" : value,
      text: wordFor(prefix, value === "\t" ? "tab" : value),
    }))
  return (
    <ActForm sends={{ version }} className="mapping">
      <div className="typed-head">
        <Choice name="encoding" label="source.encoding" value={by.encoding} options={some(encodings, "encoding")} />
        <Choice
          name="delimiter"
          label="source.delimiter"
          value={by.delimiter === "\t" ? "tab" : by.delimiter}
          options={some(["auto", ",", ";", "\t", "|"], "delimiter")}
        />
        <Choice
          name="dateOrder"
          label="source.dates"
          value={by.dateOrder}
          options={some(["ymd", "dmy", "mdy"], "dates")}
        />
        <Choice name="decimal" label="source.decimal" value={by.decimal} options={some([".", ","], "decimal")} />
        <TextField
          name="units"
          label="source.units"
          value={Object.entries(by.units)
            .map((pair) => pair.join(" = "))
            .join(", ")}
          most={300}
          placeholder="EA = each, CS = case"
        />
      </div>
      <table className="rows tight mapping-table">
        <caption>{say("source.columns-of", { name })}</caption>
        <thead>
          <tr>
            <th scope="col">{say("source.ours")}</th>
            <th scope="col">{say("source.theirs")}</th>
            <th scope="col">{say("source.first-row")}</th>
            <th scope="col">{say("source.fixed")}</th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field}>
              <th scope="row" className="big">
                {wordFor("field", field)}
              </th>
              <td>
                <ColumnSelect
                  name={`column-${field}`}
                  label={say("source.column-for", { field: wordFor("field", field) })}
                  value={by.columns[field] ?? ""}
                  columns={columns}
                />
              </td>
              <td className="code">{first[by.columns[field] ?? ""] ?? ""}</td>
              <td>
                <input
                  name={`fixed-${field}`}
                  aria-label={say("source.fixed-for", { field: wordFor("field", field) })}
                  defaultValue={by.fixed[field] ?? ""}
                  maxLength={60}
                />
              </td>
            </tr>
          ))}
          {Array.from({ length: referenceRows }, (_, index) => {
            const reference = by.references[index]
            return (
              <tr key={index}>
                <th scope="row" className="big">
                  <input
                    name={`reference-name-${index}`}
                    aria-label={say("source.reference-name", { n: index + 1 })}
                    defaultValue={reference?.name ?? ""}
                    placeholder={say("source.own-reference")}
                    maxLength={30}
                  />
                </th>
                <td>
                  <ColumnSelect
                    name={`reference-column-${index}`}
                    label={say("source.reference-column", { n: index + 1 })}
                    value={reference?.column ?? ""}
                    columns={columns}
                  />
                </td>
                <td className="code">{first[reference?.column ?? ""] ?? ""}</td>
                <td>
                  <label className="check">
                    <input
                      type="checkbox"
                      name={`reference-printed-${index}`}
                      defaultChecked={reference?.printed ?? false}
                    />{" "}
                    {say("source.printed")}
                  </label>
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      <p className="buttons">
        <Button type="submit" name="intent" value="try" disabled={busy}>
          {say("source.try")}
        </Button>{" "}
        <Button type="submit" name="intent" value="map" variant="solid" disabled={busy}>
          {say("source.mapping-save")}
        </Button>{" "}
        {isMapped ? (
          <Button type="submit" name="intent" value="unmap" variant="ghost" disabled={busy}>
            {say("source.unmap")}
          </Button>
        ) : null}
      </p>
    </ActForm>
  )
}

function ColumnSelect({
  name,
  label,
  value,
  columns,
}: {
  name: string
  label: string
  value: string
  columns: readonly { value: string; text: string }[]
}) {
  return (
    <select name={name} aria-label={label} defaultValue={value}>
      {columns.map((one) => (
        <option key={one.value} value={one.value}>
          {one.text}
        </option>
      ))}
    </select>
  )
}

/** What the mapping makes of the first rows. */
function Tried({
  rows,
}: {
  rows: readonly { fields: Readonly<Record<string, string>>; refusals: readonly Reason[] }[]
}) {
  const shown = [
    ...new Set(rows.flatMap((row) => Object.entries(row.fields).flatMap(([name, value]) => (value ? [name] : [])))),
  ]
  return (
    <Table
      className="rows tight tried"
      title={say("source.tried-rows")}
      rows={rows.map((row, at) => ({ ...row, at }))}
      rowKey={(row) => row.at}
      columns={[
        {
          name: "reason",
          head: say("intake-file.reason"),
          className: (row) => (row.refusals.length > 0 ? "ember" : undefined),
          cell: (row) => (row.refusals.length > 0 ? sayReasons(row.refusals) : say("source.good")),
        },
        ...shown.map((name) => ({
          name,
          head: /^reference[+-]/.test(name) ? name.slice(10) : wordFor("field", name),
          cell: (row: (typeof rows)[number]) => row.fields[name] ?? "",
        })),
      ]}
    />
  )
}
