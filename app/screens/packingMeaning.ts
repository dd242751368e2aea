import { sameCode } from "core/picking/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import { say } from "../messages/index.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What a text means at packing. */
export type Meaning =
  | { kind: "carton"; code: string }
  | { kind: "hand"; number: number }
  | { kind: "put"; carton: number; lineId: number; sku: string; quantity: number; scanned: boolean }
  | { kind: "all"; carton: number }
  | { kind: "scale"; carton: number }
  | { kind: "weight"; carton: number; figure: string; unit: "lb" | "kg" | "oz" }
  | { kind: "refused"; why: Reason }

/** What a text means at packing, for the screen before Enter and for the server after it; null: nothing of ours. */
export function meaning(view: ShipmentView, text: string, hand: number | null): Meaning | null {
  const type = view.catalogue.find((one) => sameCode(one.code, text))
  if (type) return { kind: "carton", code: type.code }
  const noCarton: Meaning = { kind: "refused", why: reason("ship.no-carton-in-hand") }
  if (/^w(eigh)?$/i.test(text)) return hand ? { kind: "scale", carton: hand } : noCarton
  if (/^all$/i.test(text)) return hand ? { kind: "all", carton: hand } : noCarton
  for (const reading of readings(text)) {
    if (reading.kind === "gtin" || reading.kind === "code") {
      const code = reading.kind === "gtin" ? reading.gtin : reading.code
      const matches = view.lines.filter(
        (line) =>
          sameCode(line.sku, code) ||
          line.levels.some((level) => level.gtin !== null && level.gtin.padStart(14, "0") === code),
      )
      const line = matches.find((one) => one.picked > one.packed) ?? matches[0]
      if (!line) continue
      const carton = cartonFor(view, line.id, hand)
      if (!carton) return noCarton
      const quantity = line.levels.find((level) => level.gtin?.padStart(14, "0") === code)?.count ?? 1
      const left = line.picked - line.packed
      if (quantity > left)
        return { kind: "refused", why: reason("pack.too-many", { line: line.letter, sku: line.sku, quantity, left }) }
      return { kind: "put", carton, lineId: line.id, sku: line.sku, quantity, scanned: true }
    }
    if (reading.kind === "line") {
      const line = view.lines.find((one) => one.letter === reading.line)
      if (!line) continue
      if (!hand) return noCarton
      const left = line.picked - line.packed
      const quantity = reading.quantity ?? left
      if (quantity > left || quantity === 0)
        return { kind: "refused", why: reason("pack.too-many", { line: line.letter, sku: line.sku, quantity, left }) }
      return { kind: "put", carton: hand, lineId: line.id, sku: line.sku, quantity, scanned: false }
    }
    if (reading.kind === "weight")
      return hand ? { kind: "weight", carton: hand, figure: reading.figure, unit: reading.unit } : noCarton
    if (reading.kind === "number" && view.packages.some((one) => String(one.number) === reading.figure))
      return { kind: "hand", number: Number(reading.figure) }
  }
  return null
}

/**
 * Which carton a scanned piece goes into: the one in hand where it was taken without a plan, else the first open one
 * whose plan still lacks the line, else the one in hand.
 */
function cartonFor(view: ShipmentView, lineId: number, hand: number | null): number | null {
  const open = view.packages.filter((one) => one.state === "open")
  const inHand = open.find((one) => one.number === hand)
  const lacks = (one: (typeof open)[number]) =>
    (one.planned[lineId] ?? 0) > (one.contents.find((content) => content.lineId === lineId)?.quantity ?? 0)
  if (inHand && (Object.keys(inHand.planned).length === 0 || lacks(inHand))) return inHand.number
  return open.find(lacks)?.number ?? hand
}

/** A meaning in words, shown before Enter. */
export function inWords(view: ShipmentView, meant: Exclude<Meaning, { kind: "refused" }>): string {
  switch (meant.kind) {
    case "carton":
      return say("ship.plate.carton", { code: meant.code })
    case "hand":
      return `${say("ship.take-in-hand")}: ${meant.number}`
    case "put":
      return say("ship.put", { n: meant.quantity, sku: meant.sku, carton: meant.carton })
    case "all":
      return `${say("words.fill.does")}: ${meant.carton}`
    case "scale":
      return say("scale.weigh-label", { n: meant.carton })
    case "weight":
      return `${meant.figure} ${meant.unit}, ${view.bench}-${meant.carton}`
  }
}
