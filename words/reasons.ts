import { asLevel, type ItemLevel } from "core/picking/index.ts"
import { decoded, type Reason } from "core/refusal/index.ts"
import { clockTime, shortDay } from "./format.ts"
import { type MessageKey, say, sayCode, type Values } from "./index.ts"
import { localeOf, reader } from "./language.ts"

/** A refusal, stop or charge's reason in words; a code without words, such as one of a later release, shows itself. */
export function sayReason(reason: Reason, more: Values = {}): string {
  const said: Values = reason.code === "order.changed-by" ? { fields: sayFields(reason.values.fields ?? "[]") } : {}
  const values = inWords({ ...reason.values, ...said, ...more })
  if (reason.code.startsWith("row.")) {
    const why = sayCode(reason.code, values) ?? reason.code
    return values.field
      ? say("row.shown", { field: values.field, value: values.value ?? "", why })
      : say("row.shown-whole", { why })
  }
  const dated = /^(why|rate|fact)\./.test(reason.code) ? withDays(values) : values
  const code = variants.has(reason.code) ? `${reason.code}.${reason.values.by}` : reason.code
  return sayCode(code, named(dated)) ?? reason.code
}

/** What was in the way of a job or a device, as it was kept: a coded reason, or the text that another program gave. */
export function sayTrouble(text: string | null | undefined): string {
  const known = text ? decoded(text) : null
  return known ? sayReason(known) : (text ?? "")
}

/** Figures that are reasons themselves, such as why a device did not answer, and times of the day. */
const inWords = (values: Values): Values =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [
      name,
      typeof value !== "string" ? value : timeOfDay.test(value) ? clockTime(value) : sayTrouble(value),
    ]),
  )
const timeOfDay = /^(?:[01]\d|2[0-3]):[0-5]\d$/

/** Days of the calendar as the interface writes them. */
const withDays = (values: Values): Values =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [
      name,
      String(value).replace(/\b\d{4}-\d\d-\d\d\b/g, (day) => shortDay(day)),
    ]),
  )

/** Reasons whose words depend on what decided. */
const variants: ReadonlySet<string> = new Set(["why.billed", "why.chargeable"])

/** Values that are codes of something with a name of its own, by that name. */
function named(values: Values): Values {
  const name = (prefix: "option" | "payer", code: string | number | undefined) =>
    code ? { [prefix]: wordFor(prefix, code) } : {}
  const { option, payer, category, need, role, country } = values
  return {
    ...values,
    ...name("option", option),
    ...name("payer", payer),
    ...(category ? { category: wordFor("category", category) } : {}),
    ...(need ? { need: wordFor("permit", need) } : {}),
    // abroad, countries are told by their names
    ...(typeof country === "string" && /^[A-Z]{2}$/.test(country) ? { country: countryWord(country) } : {}),
    ...(role ? { role: wordFor("customs.role", role) } : {}),
    ...otherOption(values),
  }
}
const countryWord = (code: string): string =>
  new Intl.DisplayNames([localeOf[reader().language]], { type: "region" }).of(code) ?? code
const otherOption = ({ other }: Values): Values => (other ? { other: wordFor("option", other) } : {})

/** Columns of an order with what stands in them, as `[["city","Denver"]]`: as its form names them. */
const sayFields = (fields: string): string =>
  (JSON.parse(fields) as [string, string][])
    .map(([field, value]) => `${wordFor("order", field)} “${sayOrderValue(field, value)}”`)
    .join(", ")

/** What stands in a column of an order, as its form shows it; a dash for nothing. */
export function sayOrderValue(field: string, value: string | number | boolean | null | undefined): string {
  if (field === "kind_confirmed") return say(Number(value) ? "known.yes" : "known.no")
  if (field === "address_kind") return wordFor("kind", String(value))
  if (field === "dock" || field === "forklift") return wordFor("known", String(value))
  return value === null || value === undefined || value === "" ? "–" : String(value)
}

/** The word for a code that came as data, or the code itself where it has none here. */
export const wordFor = (family: Family, code: string | number, values: Values = {}): string =>
  sayCode(`${family}.${code}`, values) ?? String(code)

/** What the keys of several messages begin with. */
type Family = MessageKey extends infer Key ? (Key extends `${infer Name}.${string}` ? Begins<Name, Key> : never) : never
type Begins<Name extends string, Key> = Key extends `${Name}.${infer More}.${string}` ? Name | `${Name}.${More}` : Name

/** Several reasons, one after another: whole sentences stand by themselves, what is no sentence is joined to the next. */
export const sayReasons = (reasons: readonly Reason[]): string =>
  reasons
    .map((reason) => sayReason(reason))
    .reduce((text, next) => (text === "" ? next : `${text}${/[.!?…]$/.test(text) ? " " : "; "}${next}`), "")

/** What is wrong with a form's fields, whose schema names a message for each; every message once. */
export const sayIssues = (issues: readonly { readonly message: string }[]): string =>
  [...new Set(issues.map((issue) => sayIssue(issue.message)))].join(" ")

/** What is wrong with a field, in words: its schema names a message for it. */
export const sayIssue = (message: string): string => sayCode(message) ?? message

/** Pieces in words: as cases where a case's code named them, `2 cases (48)`, else their number. */
export function sayPieces(levels: readonly ItemLevel[], code: string, pieces: number): string {
  const level = asLevel(levels, code, pieces)
  return level ? say("level.quantity", { n: level.n, level: level.name, pieces }) : String(pieces)
}
