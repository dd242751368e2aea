import { Button } from "@chakra-ui/react"
import { clock } from "words/format.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"
import { SignatureField, SignaturePicture } from "../parts/SignatureField.tsx"
import { useShell } from "../shell/useNow.ts"
import type { OrderView } from "./orderView.server.ts"

const ways = ["counter", "in-person"] as const
const identities = ["seen", "known", "none"] as const

/** A packed order that its customer fetches, or is handed: who took it, and his signature. */
export function HandOver({ handed, ready }: { handed: OrderView["handed"]; ready: boolean }) {
  const { zone } = useShell()
  if (handed)
    return (
      <div className="handed">
        <h2>{say(`handed.carrier.${handed.way}`)}</h2>
        <p>
          {say("handed.to", { name: handed.name, time: clock(handed.at, zone), by: handed.by })}{" "}
          {say(`handed.identity.${handed.identity}`)}
          {handed.note ? `, ${handed.note}` : ""}
        </p>
        {handed.strokes.length > 0 ? <SignaturePicture strokes={handed.strokes} /> : null}
        {handed.document ? <a href={`/papers/${handed.document}.pdf`}>{say("papers.kind.pickup-receipt")}</a> : null}
      </div>
    )
  if (!ready) return null
  return (
    <details className="elsewhere">
      <summary>{say("handed.title")}</summary>
      <ActForm intent="hand-over" id="handed-form" className="elsewhere-form">
        <Choice
          name="way"
          label="handed.way"
          value="counter"
          options={ways.map((value) => ({ value, text: say(`handed.carrier.${value}`) }))}
        />
        <TextField name="name" label="handed.name-field" most={60} needed />
        <Choice
          name="identity"
          label="handed.identity-field"
          value="seen"
          options={identities.map((value) => ({ value, text: say(`handed.identity.${value}`) }))}
        />
        <TextField name="note" label="handed.note" most={120} />
        <Check name="onPaper" label="driver.on-paper" on={false} />
        <SignatureField name="signature" before={[]} />
        <Button type="submit">{say("handed.save")}</Button>
      </ActForm>
    </details>
  )
}
