import { Button } from "@chakra-ui/react"
import type { PrintedKind } from "server/documents/printers.ts"
import type { BenchSeen, PrinterUse } from "server/documents/setUp.ts"
import { say } from "words/index.ts"
import { Act, ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import { Table, type TableColumn } from "../parts/Table.tsx"

interface Named {
  readonly id: number
  readonly name: string
}

/** Which kind of paper comes out of which printer, at the warehouse and each of its benches. */
export function PrinterUses({
  kinds,
  benches,
  printers,
  uses,
  seen,
  mayChange,
}: {
  kinds: readonly PrintedKind[]
  benches: readonly BenchSeen[]
  printers: readonly Named[]
  uses: readonly PrinterUse[]
  /** What these choices are known by when others are saved. */
  seen: string
  mayChange: boolean
}) {
  const places: readonly Named[] = [{ id: 0, name: say("printer.warehouse") }, ...benches]
  const of = (kind: PrintedKind, benchId: number) =>
    uses.find((one) => one.kind === kind && one.benchId === benchId)?.printerId ?? 0
  const columns: TableColumn<{ kind: PrintedKind }>[] = [
    {
      name: "kind",
      head: say("printer.head.paper"),
      heads: true,
      className: "big",
      cell: ({ kind }) => say(`printer.use.${kind}`),
    },
    ...places.map(
      (place): TableColumn<{ kind: PrintedKind }> => ({
        name: `place ${place.id}`,
        head: place.name,
        cell: ({ kind }) => (
          <select
            name={`use-${kind}-${place.id}`}
            defaultValue={of(kind, place.id)}
            disabled={!mayChange}
            aria-label={say("printer.use-label", { kind: say(`printer.use.${kind}`), place: place.name })}
          >
            <option value="0">
              {say(
                place.id !== 0
                  ? "printer.as-warehouse"
                  : kind === "labels" || kind === "papers"
                    ? "printer.not-set"
                    : "printer.as-all",
              )}
            </option>
            {printers.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
        ),
      }),
    ),
  ]
  return (
    <div className="printer-uses">
      <h2>{say("printer.uses")}</h2>
      <p className="note">{say("printer.uses-note")}</p>
      <ActForm
        intent="uses"
        sends={{ seen }}
        key={uses.map((one) => `${one.kind}${one.benchId}${one.printerId}`).join(" ")}
      >
        <Table
          caption={say("printer.uses")}
          sorts={false}
          rows={kinds.map((kind) => ({ kind }))}
          rowKey={(row) => row.kind}
          columns={columns}
        />
        {mayChange ? <Button type="submit">{say("printer.uses-save")}</Button> : null}
      </ActForm>
      {mayChange ? (
        <div className="bench-acts">
          <ActForm intent="add-bench" className="bench-new" key={benches.length}>
            <TextField name="name" id="bench-name" label="bench.new" most={60} />
            <Button type="submit">{say("bench.add")}</Button>
          </ActForm>
          {benches.map((one) => (
            <Act key={one.id} intent="remove-bench" sends={{ bench: one.id }}>
              <button type="submit" className="as-link">
                {say("bench.remove", { name: one.name })}
              </button>
            </Act>
          ))}
        </div>
      ) : null}
    </div>
  )
}
