import { Button } from "@chakra-ui/react"
import type { ClaimTerms } from "core/claims/index.ts"
import { Fragment } from "react"
import { say } from "words/index.ts"
import { ActForm } from "../parts/ActForm.tsx"
import { Check, Choice, TextField } from "../parts/Fields.tsx"

const units = () => (["days", "months"] as const).map((value) => ({ value, text: say(`claim.terms.${value}`) }))

/** By when a carrier takes claims, where to, and what it makes good at most. */
export function ClaimTermsForm({
  one: { id, name, terms, own },
}: {
  one: { readonly id: number; readonly name: string; readonly terms: ClaimTerms; readonly own: boolean }
}) {
  return (
    <details className="back-move claim-terms">
      <summary>
        {name}
        {own ? "" : `, ${say("claim.terms-usual")}`}
      </summary>
      <ActForm intent="terms" sends={{ carrier: id }} id={`terms-${id}`}>
        <TextField
          name="email"
          id={`email-${id}`}
          label="claim.terms.email"
          value={terms.email}
          type="email"
          most={120}
        />
        {(["loss", "damage"] as const).map((kind) => {
          const { n, unit } = kind === "loss" ? terms.lossWithin : terms.damageWithin
          return (
            <Fragment key={kind}>
              <TextField
                name={kind}
                id={`${kind}-${id}`}
                label={`claim.terms.${kind}`}
                value={String(n)}
                mode="numeric"
                most={3}
              />
              <Choice
                name={`${kind}Unit`}
                id={`${kind}-unit-${id}`}
                label="claim.terms.unit"
                value={unit}
                options={units()}
              />
            </Fragment>
          )
        })}
        <Choice
          name="lossFrom"
          id={`from-${id}`}
          label="claim.terms.from"
          value={terms.lossFrom}
          options={(["shipped", "due"] as const).map((value) => ({ value, text: say(`claim.terms.${value}`) }))}
        />
        {(["package", "pound"] as const).map((per) => (
          <TextField
            key={per}
            name={per === "package" ? "perPackage" : "perPound"}
            id={`${per}-${id}`}
            label={`claim.terms.per-${per}`}
            value={(per === "package" ? terms.perPackage : terms.perPound) ?? ""}
            mode="decimal"
            most={14}
          />
        ))}
        <Check name="freight" id={`freight-${id}`} label="claim.terms.freight" on={terms.freight} />
        <Button type="submit" aria-label={`${say("claim.terms-save")} ${name}`}>
          {say("claim.terms-save")}
        </Button>
      </ActForm>
    </details>
  )
}
