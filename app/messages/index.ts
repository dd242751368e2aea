import type { Reason } from "core/refusal/index.ts"
import { en, type MessageKey } from "./en.ts"

type Values = Readonly<Record<string, string | number>>

/** A message by its key; a key that is missing shows itself, so that it is seen and a test finds it. */
export function say(key: MessageKey | (string & {}), values: Values = {}): string {
  const text = (en as Readonly<Record<string, string>>)[key]
  if (text === undefined) return key
  return text.replace(/\{(\w+)\}/g, (_, name: string) => String(values[name] ?? ""))
}

/** A refusal, stop or charge's reason in words. */
export function sayReason(reason: Reason, more: Values = {}): string {
  const values = { ...reason.values, ...more }
  if (reason.code.startsWith("row.")) {
    return say(values.field ? "row.shown" : "row.shown-whole", { ...values, why: say(reason.code, values) })
  }
  if (reason.code.startsWith("charge.base") && !values.dimensional) return say(`${reason.code}.actual`, values)
  return say(reason.code, values)
}

export const sayReasons = (reasons: readonly Reason[]): string => reasons.map((reason) => sayReason(reason)).join("; ")
