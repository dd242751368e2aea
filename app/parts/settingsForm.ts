import type { SettingName } from "core/rules/index.ts"
import { say } from "words/index.ts"
import { wordFor } from "words/reasons.ts"

/** Settings as a form says them; what is left open is not there. Whether they make sense is the server's to say. */
export function settingsFrom(form: FormData): Record<string, unknown> {
  const text = (name: string) => String(form.get(`set_${name}`) ?? "").trim()
  const figure = (name: string) => (text(name) === "" ? undefined : Number(text(name)))
  const terms = text("payer")
  const options = form.getAll("set_options").map(String)
  const settings = {
    service: text("service") || undefined,
    packaging: text("packaging") || undefined,
    liftgate: text("liftgate") === "" ? undefined : text("liftgate") === "yes",
    options: options.length > 0 ? options : undefined,
    payer: terms === "" ? undefined : { terms, account: text("account") },
    returnLabel: text("returnLabel") || undefined,
    returnService: text("returnService") || undefined,
    invoiceCopies: figure("invoiceCopies"),
    ladingCopies: figure("ladingCopies"),
  }
  return Object.fromEntries(Object.entries(settings).filter(([, value]) => value !== undefined))
}

/** What can be named in settings. */
export interface SettingChoices {
  readonly services: readonly { readonly code: string; readonly name: string; readonly carrier: string }[]
  /** Services by which goods come back. */
  readonly returns: readonly { readonly code: string; readonly name: string; readonly carrier: string }[]
  readonly packagings: readonly { readonly code: string; readonly name: string }[]
}

/** A setting's value in words. */
export function settingWords(name: SettingName, value: unknown, choices: SettingChoices): string {
  if (value === null || value === undefined) return "–"
  if (name === "service" || name === "returnService") {
    const service = [...choices.services, ...choices.returns].find((one) => one.code === value)
    return service ? `${service.carrier}, ${service.name}` : String(value)
  }
  if (name === "packaging") return choices.packagings.find((one) => one.code === value)?.name ?? String(value)
  if (name === "liftgate") return say(value ? "setting.yes" : "setting.no")
  if (name === "returnLabel") return wordFor("return.label", String(value))
  if (name === "options") return (value as string[]).map((one) => wordFor("option", one)).join(", ")
  if (name === "payer") {
    const { terms, account } = value as { terms: string; account: string }
    return account ? `${wordFor("payer", terms)}, ${account}` : wordFor("payer", terms)
  }
  return String(value)
}
