import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { Table } from "../parts/Table.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** The labels and papers of a bought shipment: looked at, taken along, printed again, or sent to who hands them over. */
export function LabelsPanel({ view }: { view: ShipmentView }) {
  if (view.papers.length === 0) return null
  return (
    <ActForm intent="print-labels" sends={{ key: view.key }} id="labels-form" className="labels-panel">
      <h2>{say("ship.labels")}</h2>
      <div className="scrolls">
        <Table
          caption={say("ship.labels")}
          rows={view.papers}
          rowKey={(one) => one.id}
          columns={[
            {
              name: "tick",
              className: "tick",
              head: "",
              cell: (one) => (
                <input
                  type="checkbox"
                  name="paper"
                  value={one.id}
                  defaultChecked={one.kind === "label"}
                  aria-label={say("ship.labels-select", { name: one.name })}
                />
              ),
            },
            {
              name: "name",
              heads: true,
              head: say("papers.name"),
              by: (one) => one.name,
              cell: (one) => <a href={`/papers/${one.id}.pdf`}>{one.name}</a>,
            },
            {
              name: "kind",
              head: say("papers.kind"),
              by: (one) => one.kind,
              cell: (one) => wordFor("papers.kind", one.kind),
            },
            {
              name: "printed",
              head: say("papers.printing"),
              by: (one) => one.printed,
              cell: (one) =>
                one.electronic && one.printed === 0 && one.waiting === 0
                  ? say("papers.electronic")
                  : one.waiting > 0
                    ? say("papers.waiting")
                    : one.printed > 0
                      ? say("papers.printed-n", { n: one.printed })
                      : say("ship.labels-never"),
            },
            {
              name: "take",
              head: "",
              className: "acts",
              cell: (one) => (
                <a href={`/papers/${one.id}.pdf`} download={`${one.name}.pdf`}>
                  {say("ship.labels-download")}
                </a>
              ),
            },
          ]}
        />
      </div>
      {view.data.length > 0 ? (
        <p className="field-note">
          {say("papers.as-data")}{" "}
          {view.data.map((one) => (
            <a key={one.id} href={`/papers/${one.id}.pdf`} download>
              {wordFor("papers.kind", one.kind)}{" "}
            </a>
          ))}
        </p>
      ) : null}
      {view.printsTo ? (
        <p className="field-note">
          {say("preference.prints-to", {
            printer: view.printsTo.printer,
            printerBy: say(`preference.by.${view.printsTo.printerBy.kind}`, { name: view.printsTo.printerBy.name }),
            form: say(`form.${view.printsTo.form}`),
            formBy: say(`preference.by.${view.printsTo.formBy.kind}`, { name: view.printsTo.formBy.name }),
          })}
        </p>
      ) : null}
      <div className="labels-acts">
        <Button type="submit">{say("ship.labels-print")}</Button>
        <TextField name="to" id="labels-to" label="ship.labels-to" type="email" most={120} />
        <TextField name="note" id="labels-note" label="ship.labels-note" most={1_000} />
        <Button type="submit" name="intent" value="mail-labels">
          {say("ship.labels-mail")}
        </Button>
      </div>
    </ActForm>
  )
}
