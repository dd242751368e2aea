import { levelOf, sameCode } from "core/picking/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import { say } from "../messages/index.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What a text means at packing. */
export type Meaning =
  | { kind: "carton"; code: string }
  | { kind: "hand"; number: number }
  | { kind: "put"; carton: number; lineId: number; sku: string; quantity: number; scanned: boolean }
  | { kind: "move"; from: number; to: number; lineId: number; sku: string; quantity: number }
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
  const moved = /^([a-z]{1,2})(?:\s+(\d{1,6}))?\s+from\s+(\d{1,3})$/i.exec(text)
  if (moved) return moveFrom(view, hand, moved[1] as string, moved[2], Number(moved[3]))
  if (/^all$/i.test(text)) return hand ? { kind: "all", carton: hand } : noCarton
  for (const reading of readings(text)) {
    if (reading.kind === "gtin" || reading.kind === "code") {
      const code = reading.kind === "gtin" ? reading.gtin : reading.code
      const matches = view.lines.filter((line) => sameCode(line.sku, code) || levelOf(line.levels, code))
      if (matches.length === 0) continue
      // a code that carries its lot must be of one that was picked
      const lot = reading.kind === "gtin" ? reading.lot : null
      const right = matches.filter((one) => lot === null || isOf(one, lot))
      const line = right.find((one) => one.picked > one.packed) ?? right[0]
      if (!line) {
        const picked = [...new Set(matches.flatMap((one) => one.lots))].join(", ")
        return {
          kind: "refused",
          why: reason("pack.wrong-lot", { scanned: lot ?? "", sku: matches[0]?.sku ?? "", picked }),
        }
      }
      const carton = cartonFor(view, line.id, hand)
      if (!carton) return noCarton
      const quantity = levelOf(line.levels, code)?.count ?? 1
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
    if (reading.kind === "package" && reading.bench === view.bench) {
      const open = view.packages.find((one) => one.number === reading.number && one.state === "open")
      if (open) return { kind: "hand", number: open.number }
    }
    if (reading.kind === "sscc") {
      const open = view.packages.find((one) => one.sscc?.replace(/\s/g, "") === reading.sscc && one.state === "open")
      if (open) return { kind: "hand", number: open.number }
    }
    if (reading.kind === "weight")
      return hand ? { kind: "weight", carton: hand, figure: reading.figure, unit: reading.unit } : noCarton
    if (reading.kind === "number" && view.packages.some((one) => String(one.number) === reading.figure))
      return { kind: "hand", number: Number(reading.figure) }
  }
  // an item of none of its lines, while something is left to be packed, is the wrong one
  const item = readings(text).find((reading) => reading.kind === "gtin")
  const left = view.lines.some((line) => line.picked > line.packed)
  if (item && left) return { kind: "refused", why: reason("pack.wrong-item", { scanned: text, order: view.bench }) }
  return null
}

/** Whether a lot is one of those that were picked for a line; of goods kept without lots any may be. */
const isOf = (line: ShipmentView["lines"][number], lot: string): boolean =>
  line.lots.length === 0 || line.lots.some((one) => sameCode(one, lot))

/** `a 2 from 1`: pieces of a line out of a package into the one in hand; all of it where no number is said. */
function moveFrom(
  view: ShipmentView,
  hand: number | null,
  letter: string,
  pieces: string | undefined,
  from: number,
): Meaning {
  const line = view.lines.find((one) => one.letter === letter.toLowerCase())
  const out = view.packages.find((one) => one.number === from && one.state === "open")
  if (!hand) return { kind: "refused", why: reason("ship.no-carton-in-hand") }
  if (!line || !out) return { kind: "refused", why: reason("pack.no-such-package", { number: from }) }
  const inside = out.contents.find((content) => content.lineId === line.id)?.quantity ?? 0
  const quantity = pieces === undefined ? inside : Number(pieces)
  if (quantity < 1 || quantity > inside)
    return { kind: "refused", why: reason("pack.not-inside", { line: line.letter, quantity, inside }) }
  if (from === hand) return { kind: "refused", why: reason("pack.same-package", { number: from }) }
  return { kind: "move", from, to: hand, lineId: line.id, sku: line.sku, quantity }
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
    case "move":
      return say("bench.moves", { n: meant.quantity, sku: meant.sku, from: meant.from, to: meant.to })
    case "all":
      return `${say("words.fill.does")}: ${meant.carton}`
    case "scale":
      return say("scale.weigh-label", { n: meant.carton })
    case "weight":
      return `${meant.figure} ${meant.unit}, ${view.bench}-${meant.carton}`
  }
}
