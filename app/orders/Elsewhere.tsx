import { Button } from "@chakra-ui/react"
import { shortDay } from "words/format.ts"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { TextField } from "../parts/Fields.tsx"

/** What an order that somebody else carried went with, or the form to record it. */
export function Elsewhere({
  mayRecord,
  today,
  carriers,
}: {
  mayRecord: boolean
  today: string
  carriers: readonly string[]
}) {
  if (!mayRecord) return null
  return (
    <details className="elsewhere">
      <summary>{say("elsewhere.title")}</summary>
      <p className="note">{say("elsewhere.note")}</p>
      <ActForm intent="elsewhere" id="elsewhere-form" className="elsewhere-form">
        <TextField name="carrier" label="elsewhere.carrier-field" most={60} needed list="elsewhere-carriers" />
        <datalist id="elsewhere-carriers">
          {carriers.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        <TextField name="service" label="elsewhere.service-field" most={60} />
        <TextField name="tracking" label="elsewhere.tracking-field" most={1000} needed />
        <TextField name="shippedOn" label="elsewhere.day-field" type="date" value={today} />
        <TextField name="cost" label="elsewhere.cost-field" mode="decimal" most={10} />
        <TextField name="currency" label="elsewhere.currency-field" most={3} placeholder="USD" />
        <Button type="submit">{say("elsewhere.save")}</Button>
      </ActForm>
    </details>
  )
}

/** With whom an order went whom we do not book with. */
export const elsewhereWords = (outside: {
  readonly carrier: string | null
  readonly shippedOn: string | null
}): string =>
  [
    say("elsewhere.shipped", { carrier: outside.carrier ?? "" }),
    outside.shippedOn ? say("elsewhere.shipped-on", { day: shortDay(outside.shippedOn) }) : "",
  ]
    .filter(Boolean)
    .join(" ")
