import { Button } from "@chakra-ui/react"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What the bill of lading says that is known only when the truck is there. */
export function AtCollection({ collected }: { collected: NonNullable<ShipmentView["collected"]> }) {
  const fields = ["proNumber", "trailer", "seal", "driver", "counted"] as const
  return (
    <ActForm
      intent="lading-collected"
      sends={collected.numbered ? { proNumber: collected.proNumber } : {}}
      id="collected-form"
      className="collected"
    >
      <h2>{say("lading.at-collection")}</h2>
      {fields
        .filter((name) => name !== "proNumber" || !collected.numbered)
        .map((name) => (
          <TextField
            key={name}
            name={name}
            id={`collected-${name}`}
            label={`lading.field.${name}`}
            value={collected[name]}
            mode={name === "counted" ? "numeric" : undefined}
            most={60}
          />
        ))}
      <Button type="submit">{say("lading.save-collected")}</Button>
      <p className="field-note">{say("lading.at-collection-note")}</p>
    </ActForm>
  )
}
