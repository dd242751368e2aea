import { asLevel, type ItemLevel } from "core/picking/index.ts"
import type { Reason } from "core/refusal/index.ts"
import { IntlMessageFormat } from "intl-messageformat"
import { shortDay } from "../shell/format.ts"
import { en, type MessageKey } from "./en.ts"

type Values = Readonly<Record<string, string | number>>

/** A message by its key; a key that is missing shows itself, so that it is seen and a test finds it. */
export function say(key: MessageKey | (string & {}), values: Values = {}): string {
  const text = (en as Readonly<Record<string, string>>)[key]
  if (text === undefined) return key
  if (/, (?:plural|select),/.test(text)) return counted(text, values)
  return text.replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ""))
}

/** Messages that count, read once: what is counted has a name of its own, so that its figure is written as it was given. */
const formats = new Map<string, { readonly message: IntlMessageFormat; readonly names: readonly string[] }>()
const countOf = (name: string) => `${name}Count`

/** A message whose words follow a number or a kind, in the syntax of ICU messages. */
function counted(text: string, values: Values): string {
  const known = formats.get(text) ?? {
    message: new IntlMessageFormat(
      text.replace(/\{(\w+), plural,/g, (_, name: string) => `{${countOf(name)}, plural,`),
      "en",
      undefined,
      { ignoreTag: true },
    ),
    names: [...new Set([...text.matchAll(/\{(\w+)[,}]/g)].map((match) => match[1] as string))],
  }
  formats.set(text, known)
  const given = known.names.flatMap((name) => {
    const value = String(values[name] ?? "")
    return [
      [name, value],
      [countOf(name), Number(value.replaceAll(",", ""))],
    ] as const
  })
  return String(known.message.format(Object.fromEntries(given)))
}

/** A refusal, stop or charge's reason in words. */
export function sayReason(reason: Reason, more: Values = {}): string {
  const values = { ...reason.values, ...more }
  if (reason.code.startsWith("row.")) {
    return say(values.field ? "row.shown" : "row.shown-whole", { ...values, why: say(reason.code, values) })
  }
  const told = /^(why|rate|fact)\./.test(reason.code) ? withDays(values) : values
  return say(variants.has(reason.code) ? `${reason.code}.${reason.values.by}` : reason.code, named(told))
}

/** Days of the calendar as the interface writes them. */
const withDays = (values: Values): Values =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [name, String(value).replace(/\b\d{4}-\d\d-\d\d\b/g, shortDay)]),
  )

/** Reasons whose words depend on what decided. */
const variants: ReadonlySet<string> = new Set(["why.billed", "why.chargeable"])

/** Values that are codes of something with a name of its own, by that name. */
function named(values: Values): Values {
  const name = (prefix: "option" | "payer", code: string | number | undefined) =>
    code ? { [prefix]: wordFor(prefix, code) } : {}
  return { ...values, ...name("option", values.option), ...name("payer", values.payer), ...otherOption(values) }
}
const otherOption = ({ other }: Values): Values => (other ? { other: wordFor("option", other) } : {})

/** The word for a code, or the code itself where a document brought one that has none here. */
export function wordFor(prefix: "option" | "payer" | "charge", code: string | number): string {
  const key = `${prefix}.${code}`
  const word = say(key)
  return word === key ? String(code) : word
}

/** Several reasons, one after another: whole sentences stand by themselves, what is no sentence is joined to the next. */
export const sayReasons = (reasons: readonly Reason[]): string =>
  reasons
    .map((reason) => sayReason(reason))
    .reduce((text, next) => (text === "" ? next : `${text}${/[.!?…]$/.test(text) ? " " : "; "}${next}`), "")

/** Pieces in words: as cases where a case's code named them, `2 cases (48)`, else their number. */
export function sayPieces(levels: readonly ItemLevel[], code: string, pieces: number): string {
  const level = asLevel(levels, code, pieces)
  return level ? say("level.quantity", { n: level.n, level: level.name, pieces }) : String(pieces)
}
