import type { WarehouseId } from "core/ids/index.ts"
import { useState } from "react"
import { say } from "words/index.ts"
import { Check, Choice, TextField } from "../parts/Fields.tsx"

export interface ShownSource {
  readonly code: string
  readonly name: string
  readonly kind: string
  readonly active: boolean
  readonly folder: string | null
  readonly pullUrl: string | null
  readonly reportUrl: string | null
  readonly reportCost: boolean
  readonly recordUrl: string | null
  readonly everySeconds: number
  readonly routing: string
  readonly warehouseId: WarehouseId | null
  readonly shipStates: readonly string[]
  readonly cancelledStates: readonly string[]
}

/** The fields of a source; a new one chooses how its orders come, which stays so. */
export function SourceFields({
  source,
  warehouses,
  here,
}: {
  source: ShownSource | null
  warehouses: readonly { id: number; name: string }[]
  here: number
}) {
  const [kind, setKind] = useState(source?.kind ?? "upload")
  return (
    <>
      <TextField name="name" label="source.field.name" value={source?.name} most={60} needed />
      {source ? (
        <>
          <input type="hidden" name="code" value={source.code} />
          <input type="hidden" name="kind" value={["folder", "pull"].includes(source.kind) ? source.kind : "upload"} />
        </>
      ) : (
        <>
          <TextField name="code" label="source.field.code" most={24} needed note="source.code" />
          <Choice
            name="kind"
            label="source.field.kind"
            value={kind}
            onChange={setKind}
            options={(["upload", "folder", "pull"] as const).map((one) => ({
              value: one,
              text: say(`source.kind.${one}`),
            }))}
          />
        </>
      )}
      <Choice
        name="warehouse"
        label="source.field.warehouse"
        value={String(source?.warehouseId ?? here)}
        options={warehouses.map((one) => ({ value: String(one.id), text: one.name }))}
      />
      <Choice
        name="routing"
        label="source.field.routing"
        value={source?.routing ?? "own"}
        options={(["own", "nearest"] as const).map((one) => ({ value: one, text: say(`source.routing.${one}`) }))}
      />
      {kind === "folder" ? (
        <TextField
          name="folder"
          label="source.field.folder"
          value={source?.folder ?? ""}
          most={40}
          note="source.folder-note"
        />
      ) : null}
      {kind === "pull" ? (
        <TextField name="pull_url" label="source.field.pull_url" value={source?.pullUrl ?? ""} most={300} />
      ) : null}
      {kind === "folder" || kind === "pull" ? (
        <TextField
          name="every"
          label="source.field.every"
          value={String(source?.everySeconds ?? 60)}
          mode="numeric"
          most={5}
        />
      ) : null}
      <TextField
        name="ship_states"
        label="source.field.ship_states"
        value={source?.shipStates.join(", ")}
        most={400}
        note="source.ship-note"
      />
      <TextField
        name="cancelled_states"
        label="source.field.cancelled_states"
        value={source ? source.cancelledStates.join(", ") : "cancelled"}
        most={400}
      />
      <TextField
        name="record_url"
        label="source.field.record_url"
        value={source?.recordUrl ?? ""}
        most={300}
        note="source.record-note"
      />
      <TextField name="report_url" label="source.field.report_url" value={source?.reportUrl ?? ""} most={300} />
      <Check name="active" label="source.field.active" on={source?.active ?? true} />
    </>
  )
}
