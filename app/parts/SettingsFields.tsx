import { payerTerms, type Settings } from "core/rules/index.ts"
import { optionCodes } from "core/tariff/index.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import { Choice, TextField } from "./Fields.tsx"
import type { SettingChoices } from "./settingsForm.ts"

/** What a shipment is sent with, each left open or said. */
export function SettingsFields({ settings, choices }: { settings: Settings; choices: SettingChoices }) {
  const open = { value: "", text: say("setting.open") }
  return (
    <>
      <Choice
        name="set_service"
        label="setting.service"
        value={settings.service ?? ""}
        options={[open, ...choices.services.map((one) => ({ value: one.code, text: one.name, group: one.carrier }))]}
      />
      <Choice
        name="set_packaging"
        label="setting.packaging"
        value={settings.packaging ?? ""}
        options={[open, ...choices.packagings.map((one) => ({ value: one.code, text: `${one.code} ${one.name}` }))]}
      />
      <Choice
        name="set_liftgate"
        label="setting.liftgate"
        value={settings.liftgate === undefined ? "" : settings.liftgate ? "yes" : "no"}
        options={[open, ...(["yes", "no"] as const).map((one) => ({ value: one, text: say(`setting.${one}`) }))]}
      />
      <details className="setting-options" open={(settings.options?.length ?? 0) > 0}>
        <summary>{say("setting.options")}</summary>
        <div className="quote-options">
          {optionCodes
            .filter((one) => one !== "liftgate")
            .map((one) => (
              <label key={one} className="check">
                <input
                  type="checkbox"
                  name="set_options"
                  value={one}
                  defaultChecked={settings.options?.includes(one)}
                />{" "}
                {wordFor("option", one)}
              </label>
            ))}
        </div>
      </details>
      <Choice
        name="set_payer"
        label="setting.payer"
        value={settings.payer?.terms ?? ""}
        options={[open, ...payerTerms.map((one) => ({ value: one, text: say(`payer.${one}`) }))]}
      />
      <TextField name="set_account" label="setting.account" value={settings.payer?.account ?? ""} most={40} />
      <Choice
        name="set_returnLabel"
        label="setting.returnLabel"
        value={settings.returnLabel ?? ""}
        options={[
          open,
          ...(["print", "mail"] as const).map((one) => ({ value: one, text: say(`return.label.${one}`) })),
        ]}
      />
      <Choice
        name="set_returnService"
        label="setting.returnService"
        value={settings.returnService ?? ""}
        options={[open, ...choices.returns.map((one) => ({ value: one.code, text: one.name, group: one.carrier }))]}
      />
      <div className="pair">
        <TextField
          name="set_invoiceCopies"
          label="setting.invoiceCopies"
          value={String(settings.invoiceCopies ?? "")}
          mode="numeric"
          most={1}
        />
        <TextField
          name="set_ladingCopies"
          label="setting.ladingCopies"
          value={String(settings.ladingCopies ?? "")}
          mode="numeric"
          most={1}
        />
      </div>
    </>
  )
}
