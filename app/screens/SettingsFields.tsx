import { payerTerms, type Settings } from "core/rules/index.ts"
import { say } from "../messages/index.ts"
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
        options={[open, ...choices.services.map((one) => ({ value: one.code, text: `${one.carrier}, ${one.name}` }))]}
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
        options={[open, ...["yes", "no"].map((one) => ({ value: one, text: say(`setting.${one}`) }))]}
      />
      <Choice
        name="set_payer"
        label="setting.payer"
        value={settings.payer?.terms ?? ""}
        options={[open, ...payerTerms.map((one) => ({ value: one, text: say(`payer.${one}`) }))]}
      />
      <TextField name="set_account" label="setting.account" value={settings.payer?.account ?? ""} most={40} />
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
