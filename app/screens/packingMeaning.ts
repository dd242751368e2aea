import { levelOf, sameCode, sameLot } from "core/picking/index.ts"
import { type Reason, reason } from "core/refusal/index.ts"
import { readings } from "core/scanning/index.ts"
import { say } from "../messages/index.ts"
import { cheapest, fastest } from "./serviceChoice.ts"
import type { ShipmentView } from "./shipmentView.server.ts"

/** What a text means at packing. */
export type Meaning =
  | { kind: "carton"; code: string }
  | { kind: "hand"; number: number }
  /** From now on scans take out of this package, into the one in hand. */
  | { kind: "from"; from: number; carton: number }
  | { kind: "put"; carton: number; lineId: number; sku: string; quantity: number; scanned: boolean }
  | { kind: "move"; from: number; to: number; lineId: number; sku: string; quantity: number }
  | { kind: "all"; carton: number }
  | { kind: "scale"; carton: number }
  | { kind: "weight"; carton: number; figure: string; unit: "lb" | "kg" | "oz" }
  /** Chooses a service. */
  | { kind: "service"; code: string; name: string }
  | { kind: "refused"; why: Reason }

/**
 * What a text means at packing, for the screen before Enter and for the server after it; null: nothing of ours.
 *
 * @param hand number of the package in hand
 * @param from number of the package that scans take out of; null: they put in what is picked
 */
export function meaning(
  view: ShipmentView,
  text: string,
  hand: number | null,
  from: number | null = null,
): Meaning | null {
  const type = view.catalogue.find((one) => sameCode(one.code, text))
  if (type) return { kind: "carton", code: type.code }
  const service = /^cheapest$/i.test(text)
    ? cheapest(view.offers)
    : /^fastest$/i.test(text)
      ? fastest(view.offers)
      : null
  if (service) return { kind: "service", code: service.code, name: service.name }
  if (/^w(eigh)?$/i.test(text)) return hand ? { kind: "scale", carton: hand } : noHand
  const moved = /^([a-z]{1,2})(?:\s+(\d{1,6}))?\s+from\s+(\d{1,3})$/i.exec(text)
  if (moved) return moveFrom(view, hand, moved[1] as string, moved[2], Number(moved[3]))
  const source = /^from\s+(\S+)$/i.exec(text)
  if (source) return takeFrom(view, hand, source[1] as string)
  if (/^all$/i.test(text)) return hand ? { kind: "all", carton: hand } : noHand
  for (const reading of readings(text)) {
    if (reading.kind === "gtin" || reading.kind === "code") {
      const code = reading.kind === "gtin" ? reading.gtin : reading.code
      const matches = view.lines.filter((line) => sameCode(line.sku, code) || levelOf(line.levels, code))
      if (matches.length === 0) continue
      // a code that carries its lot must be of one that was picked
      const lot = reading.kind === "gtin" ? reading.lot : null
      const right = matches.filter((one) => lot === null || isOf(one, lot))
      const line =
        right.find((one) => (from === null ? one.picked > one.packed : inside(view, from, one.id) > 0)) ?? right[0]
      if (!line) {
        const picked = [...new Set(matches.flatMap((one) => one.lots))].join(", ")
        return {
          kind: "refused",
          why: reason("pack.wrong-lot", { scanned: lot ?? "", sku: matches[0]?.sku ?? "", picked }),
        }
      }
      const quantity = levelOf(line.levels, code)?.count ?? 1
      if (from !== null) return moveOut(view, hand, line, quantity, from)
      const carton = cartonFor(view, line.id, hand)
      if (!carton) return noHand
      const left = line.picked - line.packed
      if (quantity > left)
        return { kind: "refused", why: reason("pack.too-many", { line: line.letter, sku: line.sku, quantity, left }) }
      return { kind: "put", carton, lineId: line.id, sku: line.sku, quantity, scanned: true }
    }
    if (reading.kind === "line") {
      const line = view.lines.find((one) => one.letter === reading.line)
      if (!line) continue
      if (!hand) return noHand
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
      return hand ? { kind: "weight", carton: hand, figure: reading.figure, unit: reading.unit } : noHand
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
  line.lots.length === 0 || line.lots.some((one) => sameLot(one, lot))

const inside = (view: ShipmentView, number: number, lineId: number): number =>
  view.packages.find((one) => one.number === number)?.contents.find((content) => content.lineId === lineId)?.quantity ??
  0

const noHand: Meaning = { kind: "refused", why: reason("ship.no-carton-in-hand") }

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
  if (!hand) return noHand
  if (!line || !out) return { kind: "refused", why: reason("pack.no-such-package", { number: from }) }
  return moveOut(view, hand, line, pieces === undefined ? inside(view, from, line.id) : Number(pieces), from)
}

/** Pieces of a line out of a package into the one in hand, where they are in it. */
function moveOut(
  view: ShipmentView,
  hand: number | null,
  line: ShipmentView["lines"][number],
  quantity: number,
  from: number,
): Meaning {
  if (!hand) return noHand
  const there = inside(view, from, line.id)
  if (quantity < 1 || quantity > there)
    return { kind: "refused", why: reason("pack.not-inside", { line: line.letter, quantity, inside: there }) }
  if (from === hand) return { kind: "refused", why: reason("pack.same-package", { number: from }) }
  return { kind: "move", from, to: hand, lineId: line.id, sku: line.sku, quantity }
}

/** `from 1`: a package of this shipment, by its number, its name or its SSCC, that scans are to take out of. */
function takeFrom(view: ShipmentView, hand: number | null, text: string): Meaning {
  if (!hand) return noHand
  const named = readings(text)
  const out = view.packages.find(
    (one) =>
      String(one.number) === text ||
      named.some(
        (reading) =>
          (reading.kind === "package" && reading.bench === view.bench && reading.number === one.number) ||
          (reading.kind === "sscc" && one.sscc?.replace(/\s/g, "") === reading.sscc),
      ),
  )
  if (out?.state !== "open") return { kind: "refused", why: reason("pack.no-such-package", { number: text }) }
  if (out.number === hand) return { kind: "refused", why: reason("pack.same-package", { number: hand }) }
  return { kind: "from", from: out.number, carton: hand }
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
    case "from":
      return say("bench.from", { from: meant.from, to: meant.carton })
    case "put":
      return say("ship.put", { n: meant.quantity, sku: meant.sku, carton: meant.carton })
    case "move":
      return say("bench.moves", { n: meant.quantity, sku: meant.sku, from: meant.from, to: meant.to })
    case "all":
      return `${say("words.fill.does")}: ${meant.carton}`
    case "scale":
      return say("scale.weigh-label", { n: meant.carton })
    case "service":
      return meant.name
    case "weight":
      return `${meant.figure} ${meant.unit}, ${view.bench}-${meant.carton}`
  }
}
