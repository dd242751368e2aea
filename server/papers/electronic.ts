import { moneyText } from "core/money/index.ts"
import { definitions, type PaperFacts } from "core/papers/index.ts"
import { massIn } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import { unmade } from "./drawn.ts"

/** The data of the papers that the carrier takes instead of a print, as they go with the booking. */
export function electronicPapers(facts: PaperFacts): { kind: string; number: string; data: unknown }[] {
  return definitions.flatMap((one) => {
    if (!one.need(facts)?.electronic) return []
    const model = one.model(facts, unmade(facts)) as { readonly number?: string }
    return [{ kind: one.kind, number: model.number ?? facts.orderNumber, data: asData(model) }]
  })
}

/** A model as plain data: money as text with its currency, masses in kilograms. */
function asData(value: unknown): unknown {
  if (Decimal.isDecimal(value)) return massIn(value as never, "kg").toFixed()
  if (Array.isArray(value)) return value.map(asData)
  if (!value || typeof value !== "object") return value
  if ("amount" in value && "currency" in value && Decimal.isDecimal(value.amount)) return moneyText(value as never)
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, asData(one)]))
}
