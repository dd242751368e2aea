import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, TextField } from "../parts/Fields.tsx"
import { SignatureField } from "../parts/SignatureField.tsx"
import type { OpenDoorData } from "./dockView.server.ts"

/** Who fetches the goods: when he came, what he counted, what he signed. Open once everything is on the truck. */
export function DriverForm({ one }: { one: OpenDoorData }) {
  const { driver } = one
  const due = one.onTruck + one.gone > 0 && one.labelled === 0 && !driver.name
  const head = [
    driver.name,
    driver.arrived && `${say("driver.arrived")} ${driver.arrived}`,
    driver.departed && `${say("driver.departed")} ${driver.departed}`,
  ]
    .filter(Boolean)
    .join(", ")
  if (one.packages.length === 0) return null
  return (
    <details className="door-driver" open={due}>
      <summary>
        {say("driver.title")}
        {head ? `: ${head}` : ""}
      </summary>
      <ActForm intent="driver" id="driver-form" sends={{ collection: one.id }} className="driver-form" key={one.id}>
        <TextField name="name" label="driver.name-field" value={driver.name} most={60} />
        <TextField name="arrived" label="driver.arrived" type="time" value={driver.arrived} />
        <TextField name="departed" label="driver.departed" type="time" value={driver.departed} />
        <TextField name="units" label="driver.units-field" value={driver.units} mode="numeric" most={4} />
        <TextField name="reason" label="driver.reason-field" value={driver.reason} most={120} />
        <TextField name="trailer" label="driver.trailer" value={driver.trailer} most={20} />
        <TextField name="seal" label="driver.seal" value={driver.seal} most={20} />
        <Check name="onPaper" label="driver.on-paper" on={driver.onPaper} />
        <SignatureField name="signature" before={driver.strokes} />
        <Button type="submit">{say("driver.save")}</Button>
      </ActForm>
    </details>
  )
}
