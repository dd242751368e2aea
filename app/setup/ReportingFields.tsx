import { Button } from "@chakra-ui/react"
import { reportFields } from "core/report/index.ts"
import { useState } from "react"
import type { Reporting } from "server/reports/list.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"

const ways = ["http", "webhook", "folder-json", "folder-csv"] as const

/** What a source is told of its orders, how, and under which names. */
export function ReportingFields({ id, version, reporting }: { id: number; version: number; reporting: Reporting }) {
  const [way, setWay] = useState<string>(reporting.way)
  const names = Object.entries(reporting.names)
    .map(([ours, theirs]) => `${ours} = ${theirs}`)
    .join("\n")
  return (
    <section className="reporting">
      <h2>{say("report.setup")}</h2>
      <ActForm intent="reporting" sends={{ id, version }} id="reporting-form" className="telling-form">
        <Choice
          name="way"
          label="report.way"
          value={way}
          onChange={setWay}
          options={ways.map((value) => ({ value, text: say(`report.way.${value}`) }))}
        />
        {way.startsWith("folder") ? (
          <TextField name="folder" id="report-folder" label="report.folder" value={reporting.folder} most={40} />
        ) : null}
        <fieldset>
          <legend>{say("report.fields")}</legend>
          {reportFields.map((one) => (
            <label key={one} className="tick-line">
              <input type="checkbox" name="fields" value={one} defaultChecked={reporting.fields.includes(one)} />{" "}
              {say(`report.field.${one}`)}
            </label>
          ))}
        </fieldset>
        <div className="field">
          <label htmlFor="report-names">{say("report.names")}</label>
          <textarea id="report-names" name="names" rows={3} maxLength={2000} defaultValue={names} />
        </div>
        <Check name="labels" id="report-labels" label="report.labels" on={reporting.labels} />
        <Check name="delivery" id="report-delivery" label="report.delivery" on={reporting.delivery} />
        <Check name="returns" id="report-returns" label="report.returns" on={reporting.returns} />
        <Check name="by_hand" id="report-by-hand" label="report.by-hand" on={reporting.byHand} />
        <Button type="submit">{say("report.save")}</Button>
      </ActForm>
      <Act sends={{ id }}>
        {reporting.way === "webhook" ? (
          <button type="submit" name="intent" value="report-secret" className="as-link">
            {say(reporting.hasSecret ? "report.new-secret" : "report.make-secret")}
          </button>
        ) : null}{" "}
        <button type="submit" name="intent" value="report-test" className="as-link">
          {say("report.test")}
        </button>
      </Act>
    </section>
  )
}
