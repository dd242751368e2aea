import { moneyText } from "core/money/index.ts"
import { billOfLading, definitions, type PaperFacts } from "core/papers/index.ts"
import { massIn } from "core/units/index.ts"
import { Decimal } from "decimal.js"
import type { Shipment } from "../packages/shipment.ts"
import { instruction } from "./data.ts"
import { unmade } from "./drawn.ts"

/**
 * What goes with the booking as data: the papers that the carrier takes instead of a print, and to a freight carrier the
 * instruction to carry it (IFTMIN).
 */
export function electronicPapers(
  facts: PaperFacts,
  shipment: Pick<Shipment, "packages" | "orderNumber">,
  at: Date,
): { kind: string; number: string; data: unknown }[] {
  const lading = billOfLading.need(facts) ? billOfLading.model(facts, unmade(facts)) : null
  const told = lading
    ? [{ kind: "IFTMIN", number: lading.number, data: instruction(lading, shipment, at).toString("latin1") }]
    : []
  return [...told, ...asked(facts)]
}

const asked = (facts: PaperFacts) =>
  definitions.flatMap((one) => {
    if (!one.need(facts)?.electronic) return []
    const model = one.model(facts, unmade(facts)) as { readonly number?: string }
    return [{ kind: one.kind as string, number: model.number ?? facts.orderNumber, data: asData(model) }]
  })

/** A model as plain data: money as text with its currency, masses in kilograms. */
function asData(value: unknown): unknown {
  if (Decimal.isDecimal(value)) return massIn(value as never, "kg").toFixed()
  if (Array.isArray(value)) return value.map(asData)
  if (!value || typeof value !== "object") return value
  if ("amount" in value && "currency" in value && Decimal.isDecimal(value.amount)) return moneyText(value as never)
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, asData(one)]))
}
