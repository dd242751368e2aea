import { Button } from "@chakra-ui/react"
import { shipperSchema } from "core/papers/index.ts"
import { reason } from "core/refusal/index.ts"
import { Form, useNavigation } from "react-router"
import { limits } from "server/formats/orderRow.ts"
import { wholeText } from "server/formats/text.ts"
import { workContext } from "server/http/context.ts"
import {
  hasSignature,
  putTable,
  saveShipper,
  saveSignature,
  setVagueWord,
  tableColumns,
  tableKinds,
  tableRows,
} from "server/papers/setUp.ts"
import { vagueWords } from "server/papers/tables.ts"
import { mostPicture } from "server/pdf/picture.ts"
import { say } from "words/index.ts"
import { sayReason, sayReasons } from "words/reasons.ts"
import { z } from "zod"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { FileInput } from "../parts/FileInput.tsx"
import { Table } from "../parts/Table.tsx"
import { act, answerTo, field, nothing } from "../shell/acts.server.ts"
import { Screen } from "../shell/Screen.tsx"
import { done, refusal } from "../shell/scan.server.ts"
import { useKept } from "../shell/useKept.ts"
import { allow } from "../shell/work.ts"
import type { Route } from "./+types/border"
import { SetUpHead } from "./SetUp.tsx"
import { setUpRights } from "./setUpRights.server.ts"

/** Rows of a table that are shown; the file has all. */
const mostShown = 40

export async function loader({ context }: Route.LoaderArgs) {
  const work = context.get(workContext)
  allow(work, "warehouse.manage")
  const { db, warehouse } = work
  return {
    rights: setUpRights(work.actor),
    shipper: warehouse.shipper,
    version: warehouse.version,
    signed: await hasSignature(work),
    vague: [...(await vagueWords(db))].sort(),
    tables: await Promise.all(
      tableKinds.map(async (kind) => ({
        kind,
        columns: tableColumns(kind),
        rows: await tableRows(db, kind, mostShown),
      })),
    ),
  }
}

export async function action({ request, context }: Route.ActionArgs) {
  const work = context.get(workContext)
  const word = z.object({ word: field.text(60) })
  const acts = {
    shipper: act(shipperSchema.extend({ version: field.version }), saveShipper, () => say("border.saved")),
    unsign: act(
      nothing,
      () => saveSignature(work, null),
      () => say("border.signature-gone"),
    ),
    "vague-add": act(
      word,
      (_, fields) => setVagueWord(work, fields.word, true),
      () => say("border.saved"),
    ),
    "vague-remove": act(
      word,
      (_, fields) => setVagueWord(work, fields.word, false),
      () => say("border.saved"),
    ),
  }
  return answerTo(request, work, acts, {
    upload: async (file, _, { table = "" }) => {
      allow(work, "warehouse.manage")
      if (table === "signature") {
        const parts: Buffer[] = []
        let bytes = 0
        for await (const part of file) {
          bytes += (part as Buffer).length
          if (bytes > mostPicture.bytes)
            return refusal(sayReason(reason("signature.too-large", { kb: mostPicture.bytes / 1024 })))
          parts.push(part as Buffer)
        }
        const outcome = await saveSignature(work, Buffer.concat(parts))
        return outcome.ok ? done(say("border.signature-saved")) : refusal(sayReasons(outcome.reasons))
      }
      const kind = tableKinds.find((one) => one === table)
      if (!kind) return refusal(say("form.wrong"))
      const outcome = await putTable(work, kind, await wholeText(file, limits.bytes))
      return outcome.ok ? done(say("border.imported", { n: outcome.value.rows })) : refusal(sayReasons(outcome.reasons))
    },
  })
}

export const meta: Route.MetaFunction = () => [{ title: `${say("setup.border")} · ${say("app.name")}` }]

export default function Border({ loaderData, actionData: answered }: Route.ComponentProps) {
  const actionData = useKept(answered)
  const busy = useNavigation().state !== "idle"
  const { shipper, tables, vague } = loaderData
  return (
    <Screen
      ribbon={{}}
      name="border"
      sill={{
        plate: { verb: say("border.plate"), detail: say("border.plate-detail"), ready: true, form: "shipper-form" },
        answer: actionData?.answer,
        words: [[say("words.order"), say("words.order.does")]],
      }}
    >
      <SetUpHead name="setup.border" rights={loaderData.rights} />
      <div className="two border-columns">
        <section className="scrolls">
          <h2>{say("border.shipper")}</h2>
          <ActForm intent="shipper" sends={{ version: loaderData.version }} id="shipper-form" className="papers-form">
            <TextField name="taxNumber" label="border.field.taxNumber" value={shipper.taxNumber} most={30} />
            <TextField name="eori" label="border.field.eori" value={shipper.eori} most={17} />
            <TextField name="oneStop" label="border.field.oneStop" value={shipper.oneStop} most={12} />
            <TextField
              name="emergencyPhone"
              label="border.field.emergencyPhone"
              value={shipper.emergencyPhone}
              most={40}
            />
            <TextField
              name="signer"
              label="border.field.signer"
              value={shipper.signer}
              most={60}
              note="border.field.signer-note"
            />
            <TextField name="title" label="border.field.title" value={shipper.title} most={40} />
            <Button type="submit" disabled={busy}>
              {say("border.plate")}
            </Button>
          </ActForm>
          <Form method="post" encType="multipart/form-data" className="upload">
            <input type="hidden" name="table" value="signature" />
            <div className="field">
              <label htmlFor="signature">{say("border.signature")}</label>
              <FileInput id="signature" accept=".png,.jpg,.jpeg,image/png,image/jpeg" />
            </div>
            <Button type="submit" disabled={busy}>
              {say("border.signature-save")}
            </Button>
          </Form>
          {loaderData.signed ? (
            <Act intent="unsign">
              <p>
                {say(loaderData.shipper.signer ? "border.signature-there" : "border.signature-waits")}{" "}
                <Button type="submit" variant="ghost">
                  {say("border.signature-remove")}
                </Button>
              </p>
            </Act>
          ) : null}
          <h2>{say("border.vague")}</h2>
          <p className="note">{say("border.vague-note")}</p>
          <ActForm intent="vague-add" className="in-line">
            <TextField name="word" label="border.vague-word" most={40} />
            <Button type="submit">{say("border.vague-add")}</Button>
          </ActForm>
          <ul className="vague-words">
            {vague.map((word) => (
              <li key={word}>
                {word}{" "}
                <Act intent="vague-remove" sends={{ word }} className="in-line">
                  <Button type="submit" variant="ghost" aria-label={say("border.vague-remove", { word })}>
                    ×
                  </Button>
                </Act>
              </li>
            ))}
          </ul>
        </section>
        <section className="scrolls">
          {tables.map((one) => (
            <div key={one.kind} className="border-table">
              <h2>{say(`border.table.${one.kind}`)}</h2>
              <Form method="post" encType="multipart/form-data" className="upload">
                <input type="hidden" name="table" value={one.kind} />
                <div className="field">
                  <label htmlFor={`file-${one.kind}`}>
                    {say("border.columns", { columns: one.columns.join(", ") })}
                  </label>
                  <FileInput id={`file-${one.kind}`} accept=".csv,text/csv,text/plain" />
                </div>
                <Button type="submit" disabled={busy}>
                  {say("border.import")}
                </Button>
                <a href={`/set-up/border/${one.kind}.csv`} download>
                  {say("border.export")}
                </a>
              </Form>
              {one.rows.length === 0 ? (
                <p className="nothing">{say("border.no-rows")}</p>
              ) : (
                <Table
                  caption={say(`border.table.${one.kind}`)}
                  rows={one.rows}
                  rowKey={(row) => row.join(" ")}
                  columns={one.columns.map((name, at) => ({
                    name,
                    head: name,
                    heads: at === 0,
                    cell: (row: readonly string[]) => row[at] || "–",
                  }))}
                />
              )}
            </div>
          ))}
        </section>
      </div>
    </Screen>
  )
}
