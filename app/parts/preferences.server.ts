import { type Preferred, type PreferredBy, preferred } from "core/preferences/index.ts"
import type { Knex } from "knex"
import { servicesByName } from "server/setup/services.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"
import type { PreferenceChoices } from "./PreferenceFields.tsx"

/** The carriers with their services that can be hidden in a comparison. */
export async function preferenceChoices(db: Knex): Promise<PreferenceChoices> {
  const carriers = new Map<string, { code: string; name: string; services: { code: string; name: string }[] }>()
  for (const { code, name, carrier, carrier_code } of await servicesByName(db)) {
    const known = carriers.get(carrier_code) ?? { code: carrier_code, name: carrier, services: [] }
    known.services.push({ code, name })
    carriers.set(carrier_code, known)
  }
  return { carriers: [...carriers.values()] }
}

/** A form's defaults, as the use case takes them. */
export const preferencesFrom = (form: FormData) => ({
  labelForm: String(form.get("labelForm") ?? ""),
  options: form.getAll("options").map(String),
  hiddenCarriers: form.getAll("hiddenCarriers").map(String),
  hiddenServices: form.getAll("hiddenServices").map(String),
})

/** Whose default something is, in words. */
export const sayPreferrer = ({ kind, name }: PreferredBy): string => say(`preference.by.${kind}`, { name })

/** What holds where a form says nothing, in words: of a person the bench's or warehouse's, of a bench the warehouse's. */
export function beyondOf(others: readonly Preferred[]): { labelForm: string | null; options: string | null } {
  const form = preferred(others, "labelForm")
  const options = preferred(others, "options")
  return {
    labelForm:
      form && form.value !== ""
        ? say("preference.form-from", { form: say(`form.${form.value}`), by: sayPreferrer(form.by) })
        : null,
    options: options
      ? say("preference.options-from", {
          by: sayPreferrer(options.by),
          options: options.value.map((one) => wordFor("option", one)).join(", "),
        })
      : null,
  }
}
