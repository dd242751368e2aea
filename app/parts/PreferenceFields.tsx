import { labelForms } from "core/documents/index.ts"
import type { Preferences } from "core/preferences/index.ts"
import { optionCodes } from "core/tariff/index.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Choice } from "./Fields.tsx"

export interface PreferenceChoices {
  readonly carriers: readonly {
    readonly code: string
    readonly name: string
    readonly services: readonly { readonly code: string; readonly name: string }[]
  }[]
}

/** What a person, bench or warehouse is used to; `beyond` says what holds where nothing is said here. */
export function PreferenceFields({
  own,
  choices,
  beyond,
}: {
  own: Preferences
  choices: PreferenceChoices
  beyond: { readonly labelForm: string | null; readonly options: string | null }
}) {
  const hides = own.hiddenCarriers.length + own.hiddenServices.length
  return (
    <>
      <Choice
        name="labelForm"
        label="preference.form"
        value={own.labelForm}
        options={[
          { value: "", text: beyond.labelForm ?? say("preference.form-open") },
          ...labelForms.map((one) => ({ value: one, text: say(`form.${one}`) })),
        ]}
      />
      <details className="setting-options" open={own.options.length > 0}>
        <summary>{say("preference.options")}</summary>
        {own.options.length === 0 && beyond.options ? <p className="field-note">{beyond.options}</p> : null}
        <div className="quote-options">
          {optionCodes.map((one) => (
            <label key={one} className="check">
              <input type="checkbox" name="options" value={one} defaultChecked={own.options.includes(one)} />{" "}
              {wordFor("option", one)}
            </label>
          ))}
        </div>
      </details>
      <details className="setting-options" open={hides > 0}>
        <summary>{say("preference.hidden")}</summary>
        <div className="preference-carriers">
          {choices.carriers.map((carrier) => (
            <fieldset key={carrier.code} aria-label={carrier.name}>
              <label className="check">
                <input
                  type="checkbox"
                  name="hiddenCarriers"
                  value={carrier.code}
                  defaultChecked={own.hiddenCarriers.includes(carrier.code)}
                />{" "}
                <b>{carrier.name}</b>
              </label>
              {carrier.services.map((one) => (
                <label key={one.code} className="check">
                  <input
                    type="checkbox"
                    name="hiddenServices"
                    value={one.code}
                    defaultChecked={own.hiddenServices.includes(one.code)}
                  />{" "}
                  {one.name}
                </label>
              ))}
            </fieldset>
          ))}
        </div>
      </details>
    </>
  )
}
